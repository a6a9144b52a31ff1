import { type BufferGeometry, Group, Mesh, type ShaderMaterial } from 'three';
import type { DrawnSteel } from '../engine/display';
import { rgb } from './palette';
import { clear, type Shown } from './shown';
import { type CellColour, colourSteel, fits, reshapeSteel, steelGeometry } from './steelMesh';
import { setSeen, studio } from './studio';

/** The steel as it is drawn. */
export class SteelView {
  readonly steel = new Group();
  private drawnSteel?: DrawnSteel | undefined;
  private through = 0;

  constructor(private readonly shown: Shown) {}

  /** The steel; of one that is drawn already the colours alone are changed. */
  set(steel: DrawnSteel | undefined, colour?: CellColour): void {
    const [drawn] = this.steel.children as Mesh[];
    if (steel && drawn && fits(this.drawnSteel, steel)) {
      if (steel !== this.drawnSteel) reshapeSteel(drawn.geometry, steel);
    } else {
      clear(this.steel);
      if (steel) {
        const mesh = new Mesh(steelGeometry(steel), studio({ shaded: true }));
        mesh.frustumCulled = false;
        this.steel.add(mesh);
      }
    }
    this.drawnSteel = steel;
    this.seeThrough();
    const [mesh] = this.steel.children;
    if (steel && colour && mesh)
      colourSteel((mesh as Mesh).geometry, steel, colour, rgb(this.shown.palette.graphiteSide));
    this.shown.draw();
  }

  /** @param through how much of the part is seen through the steel, 0 to 1 */
  seeThrough(through = this.through): void {
    this.through = through;
    this.steel.visible = through < 1;
    for (const mesh of this.steel.children as Mesh<BufferGeometry, ShaderMaterial>[])
      setSeen(mesh.material, 1 - through);
  }
}
