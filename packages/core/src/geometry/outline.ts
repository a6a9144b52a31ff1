/** X and Y, mm. */
export type Point2 = [number, number];

/** Area inside a closed outline, mm². */
export function outlineArea(points: readonly (readonly [number, number])[]): number {
  let twice = 0;
  points.forEach(([x, y], i) => {
    const [u, v] = points[(i + 1) % points.length]!;
    twice += x * v - u * y;
  });
  return Math.abs(twice) / 2;
}

/** Whether (x, y) lies inside a closed outline, by the number of its sides that a ray crosses. */
export function insideOutline(points: readonly (readonly [number, number])[], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [ax, ay] = points[i]!;
    const [bx, by] = points[j]!;
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}
