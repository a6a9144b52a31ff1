import type { Box, Vec3 } from '@esquisse/core';
import { Group, OrthographicCamera, Raycaster, Scene, Vector2, Vector3, WebGLRenderer } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { StepRun } from '../engine/views';
import { AroundView } from './aroundView';
import { DAY, type Palette } from './palette';
import { PartView } from './partView';
import { PathLines, type PathView } from './pathLines';
import { pictureOf } from './picture';
import { makePrograms, readyPrograms } from './programs';
import { clear, type Shown } from './shown';
import { SteelView } from './steelView';
import { TO_EYE } from './studio';
import { ToolView } from './toolView';

/** A corner or edge this near to the pointer is meant, pixels. */
const PICK_PIXELS = 7;
/** A path this near to the pointer is meant, pixels. */
const PATH_PIXELS = 8;

/** Named directions to look from. */
export const VIEWS = {
  isometric: new Vector3(-0.75, -1.25, 0.95),
  top: new Vector3(0, -0.0001, 1),
  front: new Vector3(0, -1, 0.0001),
  right: new Vector3(1, 0, 0.0001),
  back: new Vector3(0, 1, 0.0001),
  left: new Vector3(-1, 0, 0.0001),
  underside: new Vector3(0, -0.0001, -1),
} as const;
export type ViewName = keyof typeof VIEWS;

/** The 3D scene: draws only when something changed. */
export class BenchScene implements Shown {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new OrthographicCamera(-1, 1, 1, -1, -2000, 4000);
  private readonly controls: OrbitControls;
  readonly part = new PartView(this);
  readonly steel = new SteelView(this);
  readonly tool = new ToolView(this);
  readonly around = new AroundView(this);
  private readonly path = new Group();
  palette: Palette = DAY;
  private pathLines?: PathLines | undefined;
  private pending = 0;
  private readonly programs: Promise<void>;
  size = 250;
  /** Called after each drawing, with the direction the camera looks from. */
  onDrawn?: (camera: OrthographicCamera) => void;
  /** Called when the browser takes the drawing away, and when it gives it back. */
  onLost?: (isLost: boolean) => void;

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: !drawsInSoftware(), alpha: true });
    this.renderer.setPixelRatio(Math.min(2, globalThis.devicePixelRatio || 1));
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.zoomToCursor = true;
    this.controls.addEventListener('change', () => {
      // whoever turns the view does not wait for a picture
      this.isHeld = false;
      this.draw();
    });
    this.scene.add(...this.groups());
    // the browser gives the drawing back when it can: all that is drawn is still known
    canvas.addEventListener('webglcontextlost', (event) => {
      event.preventDefault();
      this.onLost?.(true);
    });
    canvas.addEventListener('webglcontextrestored', () => {
      this.onLost?.(false);
      this.draw();
    });
    this.programs = makePrograms(this.renderer, this.camera, this.palette);
    this.look('isometric');
  }

  private groups(): Group[] {
    const { part, edges, folds, lit } = this.part;
    const { ground, glyphs, fixtures, limits, marks, crosses, sketch } = this.around;
    const { path } = this;
    return [
      ...[ground, part, edges, folds, this.steel.steel, path, this.tool.tool],
      ...[glyphs, fixtures, limits, lit, sketch, marks, crosses],
    ];
  }

  dispose(): void {
    cancelAnimationFrame(this.pending);
    this.pending = 0;
    this.controls.dispose();
    for (const group of this.groups()) clear(group);
    this.renderer.dispose();
  }

  setPalette(palette: Palette): void {
    this.palette = palette;
    this.draw();
  }

  resize(width: number, height: number): void {
    if (width < 2 || height < 2) return;
    this.renderer.setSize(width, height, false);
    const aspect = width / height;
    // seen from the corner a block is about as wide as its diagonal and four fifths of it high
    const half = (this.size * Math.max(0.8, 1.04 / aspect)) / 2;
    Object.assign(this.camera, { left: -half * aspect, right: half * aspect, top: half, bottom: -half });
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** Turns the camera to a named direction and fits a box into the view. */
  look(name: ViewName, box?: Box): void {
    if (box) this.fit(box);
    const distance = 800;
    this.camera.position.copy(this.controls.target).addScaledVector(VIEWS[name].clone().normalize(), distance);
    this.camera.lookAt(this.controls.target);
    this.controls.update();
    this.draw();
  }

  fit(box: Box): void {
    this.controls.target.set((box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2, (box.minZ + box.maxZ) / 2);
    const size = Math.hypot(box.maxX - box.minX, box.maxY - box.minY, box.maxZ - box.minZ);
    this.camera.zoom = 1;
    this.size = size;
    const { width, height } = this.renderer.getSize(new Vector2());
    this.resize(width, height);
  }

  /** What of the part lies under a place of the canvas (0 to 1 from its left and top): triangle and point, in this frame. */
  pick(left: number, top: number): { triangle: number; point: Vec3; reach: number } | undefined {
    // the view may have been turned, or the part laid, since the last drawing
    this.camera.updateMatrixWorld();
    this.scene.updateMatrixWorld();
    const ray = new Raycaster();
    ray.setFromCamera(new Vector2(2 * left - 1, 1 - 2 * top), this.camera);
    const mesh = this.part.part.children[0];
    const hit = mesh && ray.intersectObject(mesh, false)[0];
    if (!hit || hit.faceIndex === undefined || hit.faceIndex === null) return undefined;
    const { height } = this.renderer.getSize(new Vector2());
    const perPixel = (this.camera.top - this.camera.bottom) / this.camera.zoom / height;
    return { triangle: hit.faceIndex, point: [hit.point.x, hit.point.y, hit.point.z], reach: PICK_PIXELS * perPixel };
  }

  /** Direction from what is looked at to the eye, in this frame. */
  towardsEye(): Vec3 {
    const d = this.camera.position.clone().sub(this.controls.target).normalize();
    return [d.x, d.y, d.z];
  }

  /**
   * What is seen: the part alone, or the steel.
   *
   * @param through how much of the part is seen through the steel, 0 to 1
   */
  show(what: 'part' | 'steel', through = 0): void {
    const seen = what === 'part' ? 1 : through;
    this.part.edges.visible = what === 'part';
    this.part.part.visible = seen > 0;
    this.steel.seeThrough(seen);
    this.draw();
  }

  /** The path of a step; of one that is drawn already only what is shown of it changes. */
  setPath({ path, contact }: Partial<StepRun>, view: PathView, motion: number): void {
    const drawn = this.pathLines;
    if (!path || drawn?.path !== path || drawn.colour !== view.colour || drawn.palette !== this.palette) {
      clear(this.path);
      this.pathLines = path && path.x.length > 1 ? new PathLines(path, this.palette, view.colour, contact) : undefined;
      if (this.pathLines) this.path.add(this.pathLines.object);
    }
    this.pathLines?.show(view, motion);
    this.draw();
  }

  /** Where places of the frame of the work zero are seen, as the camera stands now; pixels of the canvas. */
  seen(): (x: number, y: number, z: number) => [number, number] {
    this.camera.updateMatrixWorld();
    const { width, height } = this.renderer.getSize(new Vector2());
    const at = new Vector3();
    return (x, y, z) => {
      at.set(x, y, z).project(this.camera);
      return [((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height];
    };
  }

  /** The motion of the drawn path that is seen nearest to a place of the canvas (0 to 1 from its left and top). */
  motionAt(left: number, top: number): number | undefined {
    const { width, height } = this.renderer.getSize(new Vector2());
    return this.pathLines?.nearest(this.seen(), [left * width, top * height], PATH_PIXELS);
  }

  /** Whether a drag turns and moves the view: not while something on the bench is dragged. */
  setTurning(isOn: boolean): void {
    this.controls.enabled = isOn;
  }

  /** A small picture of the piece alone, as it is looked at now; a data URL. */
  async picture(width: number, height: number): Promise<string> {
    const { glyphs, limits, marks, crosses, sketch } = this.around;
    const apart = [this.path, this.tool.tool, glyphs, limits, this.part.lit, sketch, marks, crosses];
    await readyPrograms(this.renderer, this.scene, this.camera);
    for (const group of apart) group.visible = false;
    this.renderer.render(this.scene, this.camera);
    for (const group of apart) group.visible = true;
    this.isHeld = true;
    try {
      return await pictureOf(this.renderer, width, height, () => this.render());
    } finally {
      this.isHeld = false;
      this.draw();
    }
  }

  /** A picture is being fetched of what was drawn last: what is drawn now would hold it up. */
  private isHeld = false;

  /** Whether the bench stands nowhere in sight: what is drawn then waits until it does. */
  setParked(isParked: boolean): void {
    this.isParked = isParked;
    this.draw();
  }

  private isParked = false;

  /** Draws at the browser's next picture; what has just come is drawn as soon as its program is ready on the graphics side. */
  draw(): void {
    if (this.pending || this.isParked || this.isHeld) return;
    this.pending = requestAnimationFrame(() => void this.drawWhenReady());
  }

  private async drawWhenReady(): Promise<void> {
    const asked = this.pending;
    try {
      await this.programs;
      await readyPrograms(this.renderer, this.scene, this.camera);
    } catch (error) {
      // the next change is drawn all the same
      this.pending = 0;
      throw error;
    }
    if (this.pending !== asked) return;
    this.pending = 0;
    // drawn as soon as the picture is fetched
    if (this.isHeld) return;
    this.render();
    this.onDrawn?.(this.camera);
  }

  private render(): void {
    TO_EYE.copy(this.camera.position).sub(this.controls.target).normalize();
    const { width, height } = this.renderer.getSize(new Vector2());
    const perMm = (height * this.camera.zoom) / (this.camera.top - this.camera.bottom);
    this.pathLines?.inkFor(perMm, Math.min(width * height, (this.size * perMm) ** 2 / 3));
    this.tool.ghostTool();
    // seen along straight lines of sight, what is moved towards the eye stays where it is seen, and is hidden by less
    this.around.sketch.position.copy(TO_EYE).multiplyScalar(this.around.sketchLift);
    this.renderer.render(this.scene, this.camera);
  }
}

/** Whether the browser draws without a graphics chip: smoothing edges would then cost as much as all the rest. */
function drawsInSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}
