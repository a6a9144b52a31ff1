/** Place and size of square cells: cell (i, j) has its middle at x0 + (i + 0.5) cell, y0 + (j + 0.5) cell, mm. */
export interface PlanCells {
  x0: number;
  y0: number;
  cell: number;
  nx: number;
  ny: number;
}

/** A middle this far outside a triangle (share of its plan area) still lies in it: rounding at shared edges. */
const INSIDE = -1e-11;
const CLOSE = 1e-9;

/** Visits the cells whose middle lies in a triangle, seen in plan. */
export function cellsUnder(
  ax: number,
  ay: number,
  bx: number,
  by: number,
  cx: number,
  cy: number,
  { x0, y0, cell, nx, ny }: PlanCells,
  visit: (index: number, x: number, y: number) => void,
): void {
  const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  const way = area < 0 ? -1 : 1;
  const slack = INSIDE * area * way;
  const i0 = Math.max(0, Math.ceil((Math.min(ax, bx, cx) - x0) / cell - 0.5 - CLOSE));
  const i1 = Math.min(nx - 1, Math.floor((Math.max(ax, bx, cx) - x0) / cell - 0.5 + CLOSE));
  const j0 = Math.max(0, Math.ceil((Math.min(ay, by, cy) - y0) / cell - 0.5 - CLOSE));
  const j1 = Math.min(ny - 1, Math.floor((Math.max(ay, by, cy) - y0) / cell - 0.5 + CLOSE));
  for (let j = j0; j <= j1; j++) {
    const y = y0 + (j + 0.5) * cell;
    for (let i = i0; i <= i1; i++) {
      const x = x0 + (i + 0.5) * cell;
      if (
        way * ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) >= slack &&
        way * ((cx - bx) * (y - by) - (x - bx) * (cy - by)) >= slack &&
        way * ((ax - cx) * (y - cy) - (x - cx) * (ay - cy)) >= slack
      )
        visit(j * nx + i, x, y);
    }
  }
}
