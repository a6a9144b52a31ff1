import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import type { RoundPiece } from '../tool/profile';

/** The middle of a bull-nose's round is moved towards the mesh so often: it is a disc, and each move is to its nearest place. */
const MOVES = 3;

/** How far a mesh is from the middle of a cutter's round: a point for a ball, the disc in its corner for a bull-nose. */
export class NearestToCutter {
  private readonly nearest: ClosestPoint;

  constructor(
    mesh: ContactMesh,
    private readonly piece: RoundPiece,
  ) {
    this.nearest = new ClosestPoint(mesh);
  }

  /** With the tip at (x, y, z), mm. */
  distance(x: number, y: number, z: number): number {
    const { flat, corner } = this.piece;
    const high = z + corner;
    let far = this.nearest.distance(x, y, high);
    for (let k = 0; flat > 0 && k < MOVES; k++) {
      const [dx, dy] = [this.nearest.x - x, this.nearest.y - y];
      const share = Math.min(1, flat / Math.max(Math.hypot(dx, dy), 1e-12));
      far = Math.min(far, this.nearest.distance(x + share * dx, y + share * dy, high));
    }
    return far;
  }
}
