import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import type { RoundPiece } from '../tool/profile';

/** The middle of a bull-nose's round is moved towards the mesh so often: it is a disc, and each move is to its nearest place. */
const MOVES = 3;

/**
 * Places on the disc's rim from which it is moved, too: what is nearest to its middle may be a floor where a wall stands at its
 * rim. Of a wall between two of them the share of the disc's radius 1 - cos(180° / 16), 2 %, may be missed where another place is
 * as near.
 */
const RIM_PLACES = 16;
const RIM = Array.from({ length: RIM_PLACES }, (_, k) => [
  Math.cos((2 * Math.PI * k) / RIM_PLACES),
  Math.sin((2 * Math.PI * k) / RIM_PLACES),
]) as readonly (readonly [number, number])[];

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
    const { nearest } = this;
    let far = nearest.distance(x, y, high);
    if (flat <= 0) return far;
    /** Moves a place of the disc to what is nearest to it, as long as that comes nearer. */
    const move = (): void => {
      for (let k = 0; k < MOVES; k++) {
        const [dx, dy] = [nearest.x - x, nearest.y - y];
        const share = Math.min(1, flat / Math.max(Math.hypot(dx, dy), 1e-12));
        const nearer = nearest.distance(x + share * dx, y + share * dy, high, far);
        if (nearer >= far) return;
        far = nearer;
      }
    };
    move();
    for (const [u, v] of RIM) {
      const nearer = nearest.distance(x + flat * u, y + flat * v, high, far);
      if (nearer >= far) continue;
      far = nearer;
      move();
    }
    return far;
  }
}
