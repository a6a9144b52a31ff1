import { EsquisseError } from '../base/errors';
import { weldIndexed } from '../geometry/mesh';
import type { ReadMesh } from './stl';
import { eachLine, numberOf, refuseTooMany, textOf, wordsOf } from './text';

/**
 * Reads an OBJ text: `v x y z` and `f a b c ...`, corners counted from 1, or from the end when negative, each
 * with texture and normal numbers behind slashes. Faces of more corners are cut into a fan. Groups (`g`, `o`, `usemtl`)
 * become faces of the part; all else is passed over. A vertex may carry a weight of 1, or a colour; others are doubted.
 *
 * @param scale mm per unit of the file
 * @throws EsquisseError `file-kind`, `file-unreadable` or `mesh-invalid`, naming the line
 */
export function readObj(bytes: Uint8Array, scale = 1): ReadMesh {
  const positions: number[] = [];
  const indices: number[] = [];
  const faceOf: number[] = [];
  let group = 0;
  let groupUsed = false;
  const wrong = (line: number, what: string): EsquisseError =>
    new EsquisseError('file-unreadable', `Line ${line} of the OBJ file ${what}.`, `line ${line}`);
  let last = 0;
  let strange = 0;
  eachLine(textOf(bytes, 'OBJ'), (raw, line) => {
    last = line;
    const words = wordsOf(raw);
    const first = words[0];
    if (first === 'v') {
      const xyz = words.slice(1, 4).map(numberOf);
      if (xyz.length < 3 || xyz.some((n) => !Number.isFinite(n))) throw wrong(line, `is not a vertex: "${raw.trim()}"`);
      const more = words.slice(4).map(numberOf);
      const isKnown = [0, 3].includes(more.length) || ([1, 4].includes(more.length) && more[0] === 1);
      if (!isKnown) strange++;
      for (const n of xyz) positions.push(n * scale);
    } else if (first === 'f') {
      const known = positions.length / 3;
      const corners = words.slice(1).map((word) => {
        const n = numberOf(word.split('/')[0]);
        const v = n < 0 ? known + n : n - 1;
        if (!Number.isInteger(n) || n === 0 || v < 0 || v >= known)
          throw wrong(line, `names a vertex "${word}", but ${known} stand before it`);
        return v;
      });
      if (corners.length < 3) throw wrong(line, 'is a face of fewer than three corners');
      for (let k = 1; k + 1 < corners.length; k++) {
        indices.push(corners[0]!, corners[k]!, corners[k + 1]!);
        faceOf.push(group);
      }
      groupUsed = true;
    } else if ((first === 'g' || first === 'o' || first === 'usemtl') && groupUsed) {
      group++;
      groupUsed = false;
    }
  });
  if (indices.length === 0)
    throw new EsquisseError(
      'file-kind',
      'This is not an OBJ file with faces: no line begins with "f".',
      `line ${last}`,
    );
  refuseTooMany(faceOf.length, 'OBJ');
  const doubts =
    strange > 0
      ? [`${strange} vertices of the OBJ file have other numbers than three coordinates: compare its size and shape.`]
      : [];
  return { ...weldIndexed(positions, indices, faceOf), doubts };
}
