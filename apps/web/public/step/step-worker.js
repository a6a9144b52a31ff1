/* Reads STEP files apart from everything else: its module builds functions from text, which no other script here may. */
'use strict';

importScripts('occt-import-js.js');

let loading;

self.onmessage = async (event) => {
  const { id, bytes, options } = event.data;
  try {
    loading ??= self.occtimportjs({ locateFile: (file) => new URL(file, self.location.href).href });
    const result = (await loading).ReadStepFile(bytes, options);
    const meshes = (result.meshes ?? []).map((mesh) => ({
      name: mesh.name,
      attributes: { position: { array: Float64Array.from(mesh.attributes.position.array) } },
      index: { array: Uint32Array.from(mesh.index.array) },
      brep_faces: mesh.brep_faces.map(({ first, last }) => ({ first, last })),
    }));
    const transfer = meshes.flatMap((m) => [m.attributes.position.array.buffer, m.index.array.buffer]);
    self.postMessage({ id, bodies: { success: result.success, meshes } }, transfer);
  } catch (error) {
    self.postMessage({ id, error: String(error) });
  }
};
