import type { Box, Lay, Tool, Vec3 } from '@esquisse/core';
import { axesOf, clampingStack } from '@esquisse/core';
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  EdgesGeometry,
  Group,
  Matrix4,
  Raycaster,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  type Object3D,
  OrthographicCamera,
  Scene,
  type ShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { DrawnSteel } from '../engine/display';
import type { PartDrawing } from '../engine/partDrawing';
import type { StepRun } from '../engine/views';
import { DAY, type Palette, rgb } from './palette';
import { PathLines, type PathView } from './pathLines';
import { pictureOf } from './picture';
import { makePrograms, readyPrograms } from './programs';
import {
  boxLines,
  heightFrame,
  prismLines,
  spindleGlyph,
  toolSolids,
  zeroGlyph,
  limitLine,
  type LimitLine,
} from './solids';
import { type CellColour, colourSteel, fits, reshapeSteel, steelGeometry } from './steelMesh';
import { LEVEL_LIGHT, setSeen, shadowOf, studio, TO_EYE } from './studio';

/** A corner or edge this near to the pointer is meant, pixels. */
const PICK_PIXELS = 7;
/** A path this near to the pointer is meant, pixels. */
const PATH_PIXELS = 8;
/** How much of a tool is seen that stands before the place where it cuts. */
const GHOST = 0.22;
/** Light plaster would be white in the light that dark steel wants. */
const PLASTER_LIGHT = 1 / LEVEL_LIGHT;
/** How far the shadow on the ground reaches, as a share of the block's diagonal. */
const SHADOW_REACH = 0.16;

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
export class BenchScene {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new OrthographicCamera(-1, 1, 1, -1, -2000, 4000);
  private readonly controls: OrbitControls;
  private readonly part = new Group();
  /** Edges of the part that a lens draws. */
  private readonly edges = new Group();
  /** Folds of the part, over steel and part alike. */
  private readonly folds = new Group();
  private readonly ground = new Group();
  private readonly steel = new Group();
  private readonly path = new Group();
  private readonly tool = new Group();
  private readonly glyphs = new Group();
  private readonly fixtures = new Group();
  private readonly limits = new Group();
  private readonly lit = new Group();
  private readonly marks = new Group();
  private readonly crosses = new Group();
  private palette: Palette = DAY;
  private drawnSteel?: DrawnSteel | undefined;
  /** What the drawn tool was made of. */
  private drawnTool: readonly unknown[] = [];
  private pathLines?: PathLines | undefined;
  /** Ends of what holds the cutter: height over its tip, and radius, mm. */
  private held: readonly { height: number; radius: number }[] = [];
  private pending = 0;
  private readonly programs: Promise<void>;
  /** Diagonal of what was fitted into the view, mm. */
  private size = 250;
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
    this.controls.addEventListener('change', () => this.draw());
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
    const { ground, part, edges, folds, steel, path, tool, glyphs, fixtures, limits, lit, marks, crosses } = this;
    return [ground, part, edges, folds, steel, path, tool, glyphs, fixtures, limits, lit, marks, crosses];
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

  /**
   * The part, drawn in its file's frame, as it lies.
   *
   * @param zero work zero in the laid frame
   * @param colours three numbers a corner, or plaster
   * @param lines pairs of places drawn over it, in its laid frame
   */
  setPart(
    drawing: PartDrawing | undefined,
    lay: Lay,
    zero: readonly [number, number, number],
    colours?: Float32Array,
    lines?: Float32Array,
  ): void {
    clear(this.part);
    clear(this.edges);
    clear(this.folds);
    const [x, y, z] = axesOf(lay);
    // prettier-ignore
    const way = new Matrix4().set(
      x[0], x[1], x[2], -zero[0],
      y[0], y[1], y[2], -zero[1],
      z[0], z[1], z[2], -zero[2],
      0, 0, 0, 1,
    );
    for (const group of [this.part, this.lit, this.folds]) {
      group.matrixAutoUpdate = false;
      group.matrix.copy(way);
      group.matrixWorldNeedsUpdate = true;
    }
    if (drawing) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(drawing.positions, 3));
      geometry.setAttribute('normal', new BufferAttribute(drawing.normals, 3));
      if (colours) geometry.setAttribute('color', new BufferAttribute(colours, 3));
      const material = studio({ ...(colours ? {} : { colour: this.palette.plaster }), exposure: PLASTER_LIGHT });
      this.part.add(new Mesh(geometry, material));
      const folds = new BufferGeometry();
      folds.setAttribute('position', new BufferAttribute(drawing.folds, 3));
      const ink = new LineBasicMaterial({ color: this.palette.ink, transparent: true, opacity: 0.4 });
      this.folds.add(new LineSegments(folds, ink));
      // always in sight: to find out whether it is takes longer than to draw it
      for (const object of [...this.part.children, ...this.folds.children]) object.frustumCulled = false;
    }
    if (lines && lines.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(lines, 3));
      this.edges.position.set(-zero[0], -zero[1], -zero[2]);
      this.edges.add(new LineSegments(geometry, new LineBasicMaterial({ color: this.palette.indigo })));
    }
    this.draw();
  }

  /** Triangles of the part drawn over it in the colour of what is chosen. */
  setLit(drawing: PartDrawing | undefined, triangles: readonly number[]): void {
    clear(this.lit);
    if (drawing && triangles.length > 0) {
      const positions = new Float32Array(9 * triangles.length);
      triangles.forEach((t, k) => positions.set(drawing.positions.subarray(9 * t, 9 * t + 9), 9 * k));
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(positions, 3));
      const material = new MeshBasicMaterial({
        color: new Color(this.palette.verdigris),
        side: DoubleSide,
        transparent: true,
        opacity: 0.7,
        polygonOffset: true,
        polygonOffsetFactor: -2,
        polygonOffsetUnits: -4,
      });
      this.lit.add(new Mesh(geometry, material));
    }
    this.draw();
  }

  /** Places marked by small crosses, joined by a line; in the frame of the work zero, mm. */
  setMarks(places: readonly Readonly<Vec3>[]): void {
    const joined = places.slice(1).flatMap((place, k) => [...places[k]!, ...place]);
    this.cross(this.marks, places, joined);
  }

  /** Places at which something is wrong, marked by small crosses; in the frame of the work zero, mm. */
  setCrosses(places: readonly Readonly<Vec3>[]): void {
    this.cross(this.crosses, places, []);
  }

  private cross(group: Group, places: readonly Readonly<Vec3>[], lines: readonly number[]): void {
    clear(group);
    const r = this.size / 70;
    const points = [...lines];
    for (const [x, y, z] of places)
      points.push(x - r, y, z, x + r, y, z, x, y - r, z, x, y + r, z, x, y, z - r, x, y, z + r);
    if (points.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
      const material = new LineBasicMaterial({ color: this.palette.sanguine, depthTest: false });
      const segments = new LineSegments(geometry, material);
      segments.renderOrder = 6;
      group.add(segments);
    }
    this.draw();
  }

  /** What holds the block: nine numbers a triangle, in the frame of the work zero. */
  setFixtures(triangles: Float64Array): void {
    clear(this.fixtures);
    if (triangles.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(Float32Array.from(triangles), 3));
      geometry.computeVertexNormals();
      const material = studio({ colour: this.palette.indigo });
      setSeen(material, 0.35);
      // jaws lie on the block's sides
      material.polygonOffsetFactor = -1;
      material.polygonOffsetUnits = -2;
      this.fixtures.add(new Mesh(geometry, material));
      this.fixtures.add(
        new LineSegments(new EdgesGeometry(geometry, 20), new LineBasicMaterial({ color: this.palette.indigo })),
      );
    }
    this.draw();
  }

  /** Where a step is held in plan, drawn at a height, and the heights between which it is held, around a block. */
  setLimits(lines: readonly LimitLine[], z: number, heights: readonly number[], block: Box | undefined): void {
    clear(this.limits);
    for (const line of lines) this.limits.add(limitLine(line, z, this.palette));
    if (block) for (const height of heights) this.limits.add(heightFrame(block, height, this.palette));
    this.draw();
  }

  /** What of the part lies under a place of the canvas (0 to 1 from its left and top): triangle and point, in this frame. */
  pick(left: number, top: number): { triangle: number; point: Vec3; reach: number } | undefined {
    // the view may have been turned, or the part laid, since the last drawing
    this.camera.updateMatrixWorld();
    this.scene.updateMatrixWorld();
    const ray = new Raycaster();
    ray.setFromCamera(new Vector2(2 * left - 1, 1 - 2 * top), this.camera);
    const mesh = this.part.children[0];
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

  /** The steel; of one that is drawn already the colours alone are changed. */
  setSteel(steel: DrawnSteel | undefined, colour?: CellColour): void {
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
    if (steel && colour && mesh) colourSteel((mesh as Mesh).geometry, steel, colour, rgb(this.palette.graphiteSide));
    this.draw();
  }

  /**
   * What is seen: the part alone, or the steel.
   *
   * @param through how much of the part is seen through the steel, 0 to 1
   */
  show(what: 'part' | 'steel', through = 0): void {
    this.through = what === 'part' ? 1 : through;
    this.edges.visible = what === 'part';
    this.seeThrough();
    this.draw();
  }

  private through = 0;

  private seeThrough(): void {
    this.part.visible = this.through > 0;
    this.steel.visible = this.through < 1;
    for (const mesh of this.steel.children as Mesh<BufferGeometry, ShaderMaterial>[])
      setSeen(mesh.material, 1 - this.through);
  }

  /** Block, as thin lines. */
  setBlock(box: Box | undefined, outline: readonly (readonly [number, number])[] = [], spindle = false): void {
    clear(this.glyphs);
    clear(this.ground);
    if (box) {
      const [x, y] = [(box.maxX - box.minX) / 2, (box.maxY - box.minY) / 2];
      const ground = shadowOf(x, y, SHADOW_REACH * 2 * Math.hypot(x, y), this.palette.shadow);
      ground.position.set((box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2, box.minZ);
      this.ground.add(ground);
      const size = Math.max(8, (box.maxX - box.minX) / 12);
      this.glyphs.add(
        outline.length > 0 ? prismLines(outline, box, this.palette.pencil) : boxLines(box, this.palette.pencil),
        zeroGlyph(size, this.palette),
      );
      if (spindle) this.glyphs.add(spindleGlyph(box, size, this.palette));
    }
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

  /** The motion of the drawn path that is seen nearest to a place of the canvas (0 to 1 from its left and top). */
  motionAt(left: number, top: number): number | undefined {
    this.camera.updateMatrixWorld();
    const { width, height } = this.renderer.getSize(new Vector2());
    const at = new Vector3();
    const seen = (x: number, y: number, z: number): [number, number] => {
      at.set(x, y, z).project(this.camera);
      return [((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height];
    };
    return this.pathLines?.nearest(seen, [left * width, top * height], PATH_PIXELS);
  }

  /**
   * The tool; one that is drawn already is only moved.
   *
   * @param isWrong it touches what it must not
   */
  setTool(tool: Tool | undefined, isWrong: boolean, at?: readonly [number, number, number]): void {
    const made = tool && [tool.cutter, tool.assembly, tool.holder, ...tool.extensions, this.palette, isWrong];
    if (!made || made.length !== this.drawnTool.length || made.some((part, k) => part !== this.drawnTool[k])) {
      clear(this.tool);
      this.drawnTool = made ?? [];
      if (tool) {
        // as it is told on a face in full light
        const sanguine = `#${new Color(this.palette.sanguine).multiplyScalar(1 / LEVEL_LIGHT).getHexString()}`;
        const wrong = { flutes: sanguine, shank: sanguine, holder: sanguine };
        this.tool.add(...toolSolids(tool, isWrong ? { ...this.palette, ...wrong } : this.palette));
        let height = tool.assembly.stickOut;
        this.held = clampingStack(tool).flatMap(({ bottomDiameter, topDiameter, length }) => {
          const bottom = { height, radius: bottomDiameter / 2 };
          height += length;
          return [bottom, { height, radius: topDiameter / 2 }];
        });
      }
    }
    if (at) this.tool.position.set(...at);
    this.draw();
  }

  /** A tool that hides the place where it cuts is drawn as a ghost: the line from its tip to the eye meets what holds it. */
  private ghostTool(): void {
    const away = Math.hypot(TO_EYE.x, TO_EYE.y);
    const isBefore = TO_EYE.z > 0 && this.held.some((h) => h.height * away < h.radius * TO_EYE.z);
    this.tool.traverse((object) => {
      const { material } = object as Partial<Mesh>;
      if (material && 'uniforms' in material) setSeen(material as ShaderMaterial, isBefore ? GHOST : 1);
    });
  }

  /** A small picture of the piece alone, as it is looked at now; a data URL. */
  async picture(width: number, height: number): Promise<string> {
    const apart = [this.path, this.tool, this.glyphs, this.limits, this.lit, this.marks, this.crosses];
    await readyPrograms(this.renderer, this.scene, this.camera);
    for (const group of apart) group.visible = false;
    this.renderer.render(this.scene, this.camera);
    for (const group of apart) group.visible = true;
    this.isHeld = true;
    try {
      return await pictureOf(this.renderer, width, height);
    } finally {
      this.isHeld = false;
      this.draw();
    }
  }

  /** A picture is being fetched of what was drawn last. */
  private isHeld = false;

  /** Whether the bench stands nowhere in sight: what is drawn then waits until it does. */
  setParked(isParked: boolean): void {
    this.isParked = isParked;
    this.draw();
  }

  private isParked = false;

  /** Draws at the browser's next picture; what has just come is drawn as soon as its program is ready on the graphics side. */
  private draw(): void {
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
    TO_EYE.copy(this.camera.position).sub(this.controls.target).normalize();
    const { width, height } = this.renderer.getSize(new Vector2());
    const perMm = (height * this.camera.zoom) / (this.camera.top - this.camera.bottom);
    this.pathLines?.inkFor(perMm, Math.min(width * height, (this.size * perMm) ** 2 / 3));
    this.ghostTool();
    this.renderer.render(this.scene, this.camera);
    this.onDrawn?.(this.camera);
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

function clear(group: Group): void {
  for (const child of [...group.children]) {
    group.remove(child);
    free(child);
  }
}

function free(object: Object3D): void {
  object.traverse((o) => {
    // materials are kept: they hold nothing but their programs, and to make one again takes half a second without a chip
    (o as Partial<Mesh>).geometry?.dispose();
  });
}
