/* Reads STEP files apart from everything else: its module builds functions from text, which no other script here may. */
'use strict';

importScripts('occt-import-js.js');

let loading;
/** What the reader complains of while it reads. */
let faults = 0;
const note = (line) => {
  if (/ERR/.test(line)) faults++;
};

self.onmessage = async (event) => {
  const { id, bytes, options } = event.data;
  try {
    loading ??= self.occtimportjs({
      locateFile: (file) => new URL(file, self.location.href).href,
      print: note,
      printErr: note,
    });
    const module = await loading;
    faults = 0;
    const result = module.ReadStepFile(bytes, options);
    const meshes = (result.meshes ?? []).map((mesh) => ({
      name: mesh.name,
      attributes: { position: { array: Float64Array.from(mesh.attributes.position.array) } },
      index: { array: Uint32Array.from(mesh.index.array) },
      brep_faces: mesh.brep_faces.map(({ first, last }) => ({ first, last })),
    }));
    const transfer = meshes.flatMap((m) => [m.attributes.position.array.buffer, m.index.array.buffer]);
    self.postMessage({ id, bodies: { success: result.success, meshes, faults } }, transfer);
  } catch (error) {
    self.postMessage({ id, error: String(error) });
  }
};
