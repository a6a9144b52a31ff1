import { ALONE } from './edgePairs';

/** A mesh's triangles with which of them share each edge, see `edgePairs`. */
interface Paired {
  positions: Float64Array;
  indices: Uint32Array;
  pair: Int32Array;
}

/** A shell: triangles joined over edges that two of them share. */
interface Shell {
  triangles: Uint32Array;
  isClosed: boolean;
  /** Six times the signed volume, mm³. */
  six: number;
  low: [number, number, number];
  high: [number, number, number];
}

/**
 * Turns triangles, in place, so that neighbours look the same way and closed shells look outward: a file may have them in any
 * order of corners. Within a shell the side that most of its area looks to is kept; a shell inside another goes with that one,
 * so that a hollow stays a hollow. Open shells keep their side.
 *
 * @returns how many triangles were turned
 */
export function orient(mesh: Paired): number {
  const { indices } = mesh;
  const count = indices.length / 3;
  const twin = twinsOf(mesh.pair);
  const turned = new Uint8Array(count);
  const shells = shellsOf(mesh, twin, turned);
  const outer = shells.filter((s) => s.isClosed).map((s) => ({ shell: s, inside: [] as Shell[] }));
  const closed = outer.map((o) => o.shell);
  for (const o of outer) o.inside = closed.filter((s) => s !== o.shell && isWithin(s, o.shell));
  const within = new Set(outer.flatMap((o) => o.inside));
  for (const { shell, inside } of outer) {
    if (within.has(shell) || shell.six >= 0) continue;
    for (const s of [shell, ...inside]) for (const t of s.triangles) turned[t] = 1 - turned[t]!;
  }
  let all = 0;
  for (let t = 0; t < count; t++) {
    if (!turned[t]) continue;
    const b = indices[3 * t + 1]!;
    indices[3 * t + 1] = indices[3 * t + 2]!;
    indices[3 * t + 2] = b;
    all++;
  }
  return all;
}

/** The other triangle's edge for each edge that exactly two share, else -1. */
function twinsOf(pair: Int32Array): Int32Array {
  const twin = new Int32Array(pair.length).fill(-1);
  for (let h = 0; h < pair.length; h++) {
    const other = pair[h]!;
    if (other < 0) continue;
    twin[h] = other;
    twin[other] = h;
  }
  return twin;
}

/** Finds the shells, and marks in `turned` what of them must be turned for neighbours to agree. */
function shellsOf(mesh: Paired, twin: Int32Array, turned: Uint8Array): Shell[] {
  const { indices, pair } = mesh;
  const count = indices.length / 3;
  const seen = new Uint8Array(count);
  const order = new Uint32Array(count);
  const shells: Shell[] = [];
  let from = 0;
  for (let seed = 0; seed < count; seed++) {
    if (seen[seed]) continue;
    let end = from;
    order[end++] = seed;
    seen[seed] = 1;
    let isClosed = true;
    for (let k = from; k < end; k++) {
      const t = order[k]!;
      for (let h = 3 * t; h < 3 * t + 3; h++) {
        const other = twin[h]!;
        // an edge of many triangles bounds as well as one of two: bodies that touch share it
        if (other < 0) {
          if (pair[h] === ALONE) isClosed = false;
          continue;
        }
        const s = (other / 3) | 0;
        if (seen[s]) continue;
        seen[s] = 1;
        // neighbours that agree run along their edge in opposite ways
        turned[s] = indices[h] === indices[other] ? 1 - turned[t]! : turned[t]!;
        order[end++] = s;
      }
    }
    shells.push(shell(mesh, order.slice(from, end), isClosed, turned));
    from = end;
  }
  return shells;
}

function shell(
  { positions: p, indices }: Paired,
  triangles: Uint32Array,
  isClosed: boolean,
  turned: Uint8Array,
): Shell {
  const low: [number, number, number] = [Infinity, Infinity, Infinity];
  const high: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  // from a corner of its own, so that far shells lose no digits
  const o = 3 * indices[3 * triangles[0]!]!;
  let six = 0;
  let kept = 0;
  let other = 0;
  for (const t of triangles) {
    const [a, b, c] = [3 * indices[3 * t]!, 3 * indices[3 * t + 1]!, 3 * indices[3 * t + 2]!];
    for (const v of [a, b, c])
      for (let k = 0; k < 3; k++) {
        if (p[v + k]! < low[k]!) low[k] = p[v + k]!;
        if (p[v + k]! > high[k]!) high[k] = p[v + k]!;
      }
    const [ax, ay, az] = [p[a]! - p[o]!, p[a + 1]! - p[o + 1]!, p[a + 2]! - p[o + 2]!];
    const [bx, by, bz] = [p[b]! - p[o]!, p[b + 1]! - p[o + 1]!, p[b + 2]! - p[o + 2]!];
    const [cx, cy, cz] = [p[c]! - p[o]!, p[c + 1]! - p[o + 1]!, p[c + 2]! - p[o + 2]!];
    const own = ax * (by * cz - bz * cy) - ay * (bx * cz - bz * cx) + az * (bx * cy - by * cx);
    six += turned[t] ? -own : own;
    const nx = (by - ay) * (cz - az) - (bz - az) * (cy - ay);
    const ny = (bz - az) * (cx - ax) - (bx - ax) * (cz - az);
    const nz = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    const area = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (turned[t]) other += area;
    else kept += area;
  }
  if (other > kept) {
    for (const t of triangles) turned[t] = 1 - turned[t]!;
    six = -six;
  }
  return { triangles, isClosed, six, low, high };
}

function isWithin(inner: Shell, outer: Shell): boolean {
  return [0, 1, 2].every((k) => inner.low[k]! > outer.low[k]! && inner.high[k]! < outer.high[k]!);
}
