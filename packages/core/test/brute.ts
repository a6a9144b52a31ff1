import { heightAt, type ProfilePiece } from '../src/tool/profile';

/** Contact by search: the cutter is a set of circles of contact; each triangle is sampled by nested refinement. */
export function bruteTip(soup: number[], piece: ProfilePiece, x: number, y: number): number {
  let best = -Infinity;
  for (let t = 0; t < soup.length; t += 9) best = Math.max(best, triangleTip(soup.slice(t, t + 9), piece, x, y));
  return best;
}

/** Largest z - profile over one triangle: concave along any line, so nested golden sections find it. */
function triangleTip(p: number[], piece: ProfilePiece, x: number, y: number): number {
  const value = (a: number, b: number): number => {
    const px = p[0]! + a * (p[3]! - p[0]!) + b * (p[6]! - p[0]!);
    const py = p[1]! + a * (p[4]! - p[1]!) + b * (p[7]! - p[1]!);
    const pz = p[2]! + a * (p[5]! - p[2]!) + b * (p[8]! - p[2]!);
    const d = Math.hypot(px - x, py - y);
    // beyond the rim: a steep slope that leads the search back inside without ever being the answer
    return d > piece.radius ? -1e6 - 1e6 * (d - piece.radius) : pz - heightAt(piece, d);
  };
  const along = (a: number): number => golden((b) => value(a, b), 0, 1 - a);
  const best = golden(along, 0, 1);
  return best < -1e5 ? -Infinity : best;
}

function golden(f: (t: number) => number, low: number, high: number): number {
  const g = (Math.sqrt(5) - 1) / 2;
  let a = low;
  let b = high;
  let c = b - g * (b - a);
  let d = a + g * (b - a);
  let fc1 = f(c);
  let fd = f(d);
  for (let k = 0; k < 70; k++) {
    if (fc1 > fd) {
      b = d;
      d = c;
      fd = fc1;
      c = b - g * (b - a);
      fc1 = f(c);
    } else {
      a = c;
      c = d;
      fc1 = fd;
      d = a + g * (b - a);
      fd = f(d);
    }
  }
  return Math.max(f(low), f(high), fc1, fd);
}
