import {
  type Box,
  clampingStack,
  cuttingPiece,
  type Frustum,
  riseOf,
  shankStack,
  shapeOf,
  type Tool,
  upTo,
} from '@esquisse/core';
import {
  BufferAttribute,
  BufferGeometry,
  Group,
  LatheGeometry,
  LineBasicMaterial,
  LineLoop,
  LineSegments,
  Mesh,
  type Object3D,
  type ShaderMaterial,
  Vector2,
} from 'three';
import { frameCorners, type HeightGrip } from './heightGrips';
import type { Palette } from './palette';
import { setSeen, studio } from './studio';

/** What stands on the bench, as objects to be put into the scene. */

export function boxLines(box: Box, colour: string): LineSegments {
  const [x, X, y, Y, z, Z] = [box.minX, box.maxX, box.minY, box.maxY, box.minZ, box.maxZ];
  const corners = [x, y, z, X, y, z, X, Y, z, x, Y, z, x, y, Z, X, y, Z, X, Y, Z, x, Y, Z];
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(corners), 3));
  geometry.setIndex([0, 1, 1, 2, 2, 3, 3, 0, 4, 5, 5, 6, 6, 7, 7, 4, 0, 4, 1, 5, 2, 6, 3, 7]);
  return new LineSegments(geometry, new LineBasicMaterial({ color: colour, transparent: true, opacity: 0.55 }));
}

/** Upright walls over a closed outline, as thin lines at both ends. */
export function prismLines(outline: readonly (readonly [number, number])[], box: Box, colour: string): LineSegments {
  const points: number[] = [];
  outline.forEach(([x, y], k) => {
    const [u, v] = outline[(k + 1) % outline.length]!;
    points.push(x, y, box.minZ, u, v, box.minZ, x, y, box.maxZ, u, v, box.maxZ);
    if (k % Math.ceil(outline.length / 4) === 0) points.push(x, y, box.minZ, x, y, box.maxZ);
  });
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
  return new LineSegments(geometry, new LineBasicMaterial({ color: colour, transparent: true, opacity: 0.55 }));
}

/** A limit in plan: an outline to stay within, or (closed) one to keep clear of. */
export interface LimitLine {
  isClosed: boolean;
  points: [number, number][];
}

/** A limit as a line over the block: verdigris to stay within, sanguine to keep clear of. */
export function limitLine({ isClosed, points }: LimitLine, z: number, palette: Palette): LineLoop {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(points.flatMap(([x, y]) => [x, y, z])), 3));
  const material = new LineBasicMaterial({ color: isClosed ? palette.sanguine : palette.verdigris, depthTest: false });
  const line = new LineLoop(geometry, material);
  line.renderOrder = 5;
  return line;
}

/** How far beside the block the frame of a height stands, as a share of the block's width. */
const BESIDE_BLOCK = 0.03;
/** How large the grip of a frame is, as a share of the block's width. */
const GRIP = 0.02;
/** How much is seen of the frame of a height that is open. */
const OPEN_SEEN = 0.3;

/** Corners of the frame of a height around a block. */
export function heightCorners(block: Box): [number, number][] {
  return frameCorners(block, BESIDE_BLOCK * (block.maxX - block.minX));
}

/** A height of a step, as a level frame around the block with a grip at its corner in front; faint where it is open. */
export function heightFrame(block: Box, { z, isOpen }: HeightGrip, isHeld: boolean, palette: Palette): LineSegments {
  const corners = heightCorners(block);
  const points = corners.flatMap(([x, y], k) => [x, y, z, ...corners[(k + 1) % corners.length]!, z]);
  const r = GRIP * (block.maxX - block.minX);
  // an arrow up and one down: this is how it moves
  for (const [x, y] of corners)
    for (const s of [1, -1]) {
      const tip = [x, y, z + 2 * r * s];
      points.push(x, y, z, ...tip, ...tip, x - r / 2, y, z + r * s, ...tip, x + r / 2, y, z + r * s);
    }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
  const color = isHeld ? palette.sanguine : palette.verdigris;
  const material = new LineBasicMaterial({ color, transparent: isOpen, opacity: isOpen && !isHeld ? OPEN_SEEN : 1 });
  return new LineSegments(geometry, material);
}

/** The spindle's nose above the block, looking down: from where the tool comes. */
export function spindleGlyph(box: Box, size: number, palette: Palette): Group {
  const r = size * 0.4;
  const nose = turned(
    [
      new Vector2(0, 0),
      new Vector2(r * 0.2, 0),
      new Vector2(r * 0.2, r * 1.5),
      new Vector2(r * 0.75, r * 1.6),
      new Vector2(r, r * 2.6),
      new Vector2(r, r * 4),
    ],
    palette.graphite,
    palette,
  ) as Group;
  nose.traverse((o) => {
    const { material } = o as Partial<Mesh>;
    if (material && 'uniforms' in material) setSeen(material as ShaderMaterial, 0.55);
  });
  nose.position.set((box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2, box.maxZ + size * 0.4);
  return nose;
}

/** Work zero: three strokes, Z with the arrow of the spindle. */
export function zeroGlyph(size: number, palette: Palette): Group {
  const group = new Group();
  const stroke = (points: number[], colour: string): void => {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
    const lines = new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false }));
    lines.renderOrder = 5;
    group.add(lines);
  };
  const head = size * 0.16;
  stroke([0, 0, 0, size, 0, 0, 0, 0, 0, 0, size, 0], palette.ink);
  stroke([0, 0, 0, 0, 0, size, 0, 0, size, head, 0, size - head, 0, 0, size, -head, 0, size - head], palette.sanguine);
  return group;
}

/** Flutes, shank and holder as turned solids with their outlines. */
export function toolSolids(tool: Tool, palette: Palette): Object3D[] {
  const { cutter, assembly } = tool;
  const R = cutter.DC / 2;
  const piece = cuttingPiece(shapeOf(tool));
  const flat = piece.kind === 'cone' ? 0 : R - cutter.RE;
  const nose: Vector2[] = [new Vector2(0, 0), new Vector2(flat, 0)];
  for (let k = 1; piece.kind === 'round' && cutter.RE > 0 && k <= 12; k++) {
    const a = (k / 12) * (Math.PI / 2);
    nose.push(new Vector2(flat + cutter.RE * Math.sin(a), cutter.RE * (1 - Math.cos(a))));
  }
  if (piece.kind === 'cone') nose.push(new Vector2(R, riseOf(piece)));
  nose.push(new Vector2(R, cutter.APMX), new Vector2(0, cutter.APMX));
  const solids = [
    turned(nose, palette.flutes, palette),
    ...stacked(upTo(shankStack(cutter), assembly.stickOut - cutter.APMX), cutter.APMX, palette.shank, palette),
  ];
  return [...solids, ...stacked(clampingStack(tool), assembly.stickOut, palette.holder, palette)];
}

/** Frusta one on the other, from a height up, mm. */
function stacked(stack: readonly Frustum[], from: number, color: string, palette: Palette): Object3D[] {
  let z = from;
  return stack.map((f) => {
    const outline = [
      new Vector2(0, z),
      new Vector2(f.bottomDiameter / 2, z),
      new Vector2(f.topDiameter / 2, z + f.length),
      new Vector2(0, z + f.length),
    ];
    z += f.length;
    return turned(outline, color, palette);
  });
}

/** Facets around a turned solid. */
const AROUND = 40;
/** Outlines that turn by more than this have a line there, radians. */
const LINE_ANGLE = (35 * Math.PI) / 180;

function turned(outline: Vector2[], colour: string, palette: Palette): Object3D {
  const group = new Group();
  group.add(new Mesh(new LatheGeometry(outline, AROUND), studio({ colour })));
  const lines = new BufferGeometry();
  lines.setAttribute('position', new BufferAttribute(new Float32Array(rings(outline)), 3));
  group.add(new LineSegments(lines, new LineBasicMaterial({ color: palette.ink, transparent: true, opacity: 0.35 })));
  // a lathe turns around Y
  group.rotation.x = Math.PI / 2;
  return group;
}

/** Circles around Y at the corners of an outline, as pairs of points. */
function rings(outline: readonly Vector2[]): number[] {
  const points: number[] = [];
  for (let k = 1; k + 1 < outline.length; k++) {
    const [before, { x, y }, after] = [outline[k - 1]!, outline[k]!, outline[k + 1]!];
    const turn = Math.atan2(after.y - y, after.x - x) - Math.atan2(y - before.y, x - before.x);
    if (Math.abs(Math.atan2(Math.sin(turn), Math.cos(turn))) < LINE_ANGLE) continue;
    for (let i = 0; i < AROUND; i++)
      for (const j of [i, i + 1]) {
        const a = (2 * Math.PI * j) / AROUND;
        points.push(x * Math.sin(a), y, x * Math.cos(a));
      }
  }
  return points;
}
