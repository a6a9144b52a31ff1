import type { Toolpath } from '@esquisse/core';
import {
  BufferAttribute,
  BufferGeometry,
  type Camera,
  DoubleSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  Scene,
  type WebGLRenderer,
} from 'three';
import type { Palette } from './palette';
import { PathLines } from './pathLines';
import { type Look, setSeen, shadowOf, studio } from './studio';

/**
 * Makes the programs of all that the bench draws before anything is drawn. A program that is asked for while large things
 * wait to be drawn keeps the page waiting for all of them, half a second and more without a graphics chip.
 */
export async function makePrograms(renderer: WebGLRenderer, camera: Camera, palette: Palette): Promise<void> {
  const scene = new Scene();
  // a program is made for a material and for what the corners have: as in the scene
  const kinds: { look: Look; corners: Readonly<Record<string, number>> }[] = [
    { look: { colour: palette.plaster }, corners: { normal: 3 } },
    { look: {}, corners: { normal: 3, color: 3 } },
    { look: { shaded: true }, corners: { shade: 4, color: 4 } },
  ];
  const surfaces = kinds.flatMap(({ look, corners }) =>
    [1, 0.5].map((seen) => {
      const material = studio(look);
      setSeen(material, seen);
      return new Mesh(cornersWith(corners), material);
    }),
  );
  const lit = new Mesh(cornersWith({}), new MeshBasicMaterial({ transparent: true, side: DoubleSide }));
  const two = new Float64Array(2);
  const shortPath: Toolpath = { x: two, y: two, z: two, kind: new Uint8Array(2), feed: new Float32Array(2) };
  const lines = [false, true].map((transparent) => new LineBasicMaterial({ transparent }));
  scene.add(
    ...surfaces,
    lit,
    ...lines.map((material) => new LineSegments(cornersWith({}), material)),
    shadowOf(1, 1, 1, 1),
    new PathLines(shortPath, palette, 'kind').object,
  );
  await readyPrograms(renderer, scene, camera);
}

/** One triangle whose corners have numbers of these names, so many each. */
function cornersWith(numbers: Readonly<Record<string, number>>): BufferGeometry {
  const geometry = new BufferGeometry();
  for (const [name, size] of Object.entries({ position: 3, ...numbers }))
    geometry.setAttribute(name, new BufferAttribute(new Float32Array(3 * size), size));
  return geometry;
}

/** Waits, without holding the page, until all that a scene holds can be drawn at once. */
export async function readyPrograms(renderer: WebGLRenderer, scene: Scene, camera: Camera): Promise<void> {
  const made = renderer.info.programs?.length ?? 0;
  await renderer.compileAsync(scene, camera);
  const programs = renderer.info.programs ?? [];
  // what a program reads is asked for once, and answered after all that was to be drawn before
  for (const program of programs.slice(made)) program.getUniforms();
}
