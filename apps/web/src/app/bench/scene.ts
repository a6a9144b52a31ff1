import type { Box, Lay, Tool, Toolpath, Vec3 } from '@esquisse/core';
import { axesOf, Motion } from '@esquisse/core';
import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  EdgesGeometry,
  Group,
  Matrix4,
  Raycaster,
  LineBasicMaterial,
  LineSegments,
  type Material,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  type Object3D,
  OrthographicCamera,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { DrawnSteel } from '../engine/display';
import type { PartDrawing } from '../engine/partDrawing';
import { DAY, type Palette, rgb } from './palette';
import {
  boxLines,
  lambert,
  pathLines,
  prismLines,
  spindleGlyph,
  toolSolids,
  zeroGlyph,
  limitLine,
  type LimitLine,
} from './solids';
import { type CellColour, colourSteel, steelGeometry } from './steelMesh';

/** A corner or edge this near to the pointer is meant, pixels. */
const PICK_PIXELS = 7;
/** Surfaces stand a hair behind lines that are drawn on them. */
const BEHIND_LINES = { polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 2 };
/** Motions drawn behind the playhead at most: enough to see where the cutter comes from, few enough to see the steel. */
const MOST_LINES = 2500;

/** Named directions to look from. */
export const VIEWS = {
  corner: new Vector3(-0.75, -1.25, 0.95),
  top: new Vector3(0, -0.0001, 1),
  front: new Vector3(0, -1, 0.0001),
  right: new Vector3(1, 0, 0.0001),
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
  private readonly steel = new Group();
  private readonly path = new Group();
  private readonly tool = new Group();
  private readonly glyphs = new Group();
  private readonly fixtures = new Group();
  private readonly limits = new Group();
  private readonly lit = new Group();
  private readonly marks = new Group();
  private readonly light = new DirectionalLight(0xffffff, 1.9);
  private palette: Palette = DAY;
  private drawnSteel?: DrawnSteel | undefined;
  /** What the drawn tool was made of. */
  private drawnTool: readonly unknown[] = [];
  private pending = 0;
  /** Diagonal of what was fitted into the view, mm. */
  private size = 250;
  /** Called after each drawing, with the direction the camera looks from. */
  onDrawn?: (camera: OrthographicCamera) => void;

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: !drawsInSoftware(), alpha: true });
    this.renderer.setPixelRatio(Math.min(2, globalThis.devicePixelRatio || 1));
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('change', () => this.draw());
    this.scene.add(
      new AmbientLight(0xffffff, 0.85),
      this.light,
      this.part,
      this.edges,
      this.steel,
      this.path,
      this.tool,
      this.glyphs,
      this.fixtures,
      this.limits,
      this.lit,
      this.marks,
    );
    const fill = new DirectionalLight(0xffffff, 0.45);
    fill.position.set(1, 0.6, 0.5);
    this.scene.add(fill);
    this.look('corner');
  }

  dispose(): void {
    cancelAnimationFrame(this.pending);
    this.controls.dispose();
    for (const group of [
      this.part,
      this.edges,
      this.steel,
      this.path,
      this.tool,
      this.glyphs,
      this.fixtures,
      this.limits,
      this.lit,
      this.marks,
    ])
      clear(group);
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
    const [x, y, z] = axesOf(lay);
    // prettier-ignore
    const way = new Matrix4().set(
      x[0], x[1], x[2], -zero[0],
      y[0], y[1], y[2], -zero[1],
      z[0], z[1], z[2], -zero[2],
      0, 0, 0, 1,
    );
    for (const group of [this.part, this.lit]) {
      group.matrixAutoUpdate = false;
      group.matrix.copy(way);
      group.matrixWorldNeedsUpdate = true;
    }
    if (drawing) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(drawing.positions, 3));
      geometry.setAttribute('normal', new BufferAttribute(drawing.normals, 3));
      if (colours) geometry.setAttribute('color', new BufferAttribute(colours, 3));
      this.part.add(
        new Mesh(
          geometry,
          colours
            ? new MeshLambertMaterial({ vertexColors: true, side: DoubleSide, ...BEHIND_LINES })
            : lambert(this.palette.plaster),
        ),
      );
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
    clear(this.marks);
    const points: number[] = [];
    const r = this.size / 70;
    for (const [x, y, z] of places)
      points.push(x - r, y, z, x + r, y, z, x, y - r, z, x, y + r, z, x, y, z - r, x, y, z + r);
    for (let k = 1; k < places.length; k++) points.push(...places[k - 1]!, ...places[k]!);
    if (points.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
      const lines = new LineSegments(
        geometry,
        new LineBasicMaterial({ color: this.palette.sanguine, depthTest: false }),
      );
      lines.renderOrder = 6;
      this.marks.add(lines);
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
      const material = new MeshLambertMaterial({
        color: new Color(this.palette.indigo),
        side: DoubleSide,
        transparent: true,
        opacity: 0.35,
        depthWrite: false,
        // jaws lie on the block's sides
        polygonOffset: true,
        polygonOffsetFactor: -1,
        polygonOffsetUnits: -2,
      });
      this.fixtures.add(new Mesh(geometry, material));
      this.fixtures.add(
        new LineSegments(new EdgesGeometry(geometry, 20), new LineBasicMaterial({ color: this.palette.indigo })),
      );
    }
    this.draw();
  }

  /** Where a step is held in plan, drawn at a height. */
  setLimits(lines: readonly LimitLine[], z: number): void {
    clear(this.limits);
    for (const line of lines) this.limits.add(limitLine(line, z, this.palette));
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
    if (steel !== this.drawnSteel || !steel) {
      clear(this.steel);
      this.drawnSteel = steel;
      if (steel)
        this.steel.add(
          new Mesh(steelGeometry(steel), new MeshLambertMaterial({ vertexColors: true, side: DoubleSide })),
        );
    }
    const [mesh] = this.steel.children;
    if (steel && colour && mesh) colourSteel((mesh as Mesh).geometry, steel, colour, rgb(this.palette.graphiteSide));
    this.draw();
  }

  /** What is seen: the part alone, or the steel. */
  show(what: 'part' | 'steel'): void {
    this.part.visible = this.edges.visible = what === 'part';
    this.steel.visible = what === 'steel';
    this.draw();
  }

  /** Block, as thin lines. */
  setBlock(box: Box | undefined, outline: readonly (readonly [number, number])[] = [], spindle = false): void {
    clear(this.glyphs);
    if (box) {
      const size = Math.max(8, (box.maxX - box.minX) / 12);
      this.glyphs.add(
        outline.length > 0 ? prismLines(outline, box, this.palette.pencil) : boxLines(box, this.palette.pencil),
        zeroGlyph(size, this.palette),
      );
      if (spindle) this.glyphs.add(spindleGlyph(box, size, this.palette));
    }
    this.draw();
  }

  /** The motions of a step up to the playhead, at most the last {@link MOST_LINES}. */
  setPath(path: Toolpath | undefined, upTo: number): void {
    clear(this.path);
    if (path) {
      const from = Math.max(1, upTo - MOST_LINES);
      const colours: [Motion[], string, boolean][] = [
        [[Motion.cut], this.palette.ink, false],
        [[Motion.entry, Motion.exit], this.palette.verdigris, false],
        [[Motion.link], this.palette.pencil, true],
        [[Motion.rapid], this.palette.indigo, true],
      ];
      for (const [kinds, colour, dashed] of colours) {
        const lines = pathLines(path, from, upTo, kinds, colour, dashed);
        if (lines) this.path.add(lines);
      }
    }
    this.draw();
  }

  /** The tool; one that is drawn already is only moved. */
  setTool(tool: Tool | undefined, at?: readonly [number, number, number]): void {
    const made = tool && [tool.cutter, tool.assembly, tool.holder, ...tool.extensions, this.palette];
    if (!made || made.length !== this.drawnTool.length || made.some((part, k) => part !== this.drawnTool[k])) {
      clear(this.tool);
      this.drawnTool = made ?? [];
      if (tool) this.tool.add(...toolSolids(tool, this.palette));
    }
    if (at) this.tool.position.set(...at);
    this.draw();
  }

  private draw(): void {
    if (this.pending) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = 0;
      this.light.position.copy(this.camera.position).sub(this.controls.target).normalize();
      this.light.position.add(new Vector3(-0.5, -0.15, 0.75));
      this.renderer.render(this.scene, this.camera);
      this.onDrawn?.(this.camera);
    });
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
    const own = o as Partial<Mesh>;
    own.geometry?.dispose();
    (own.material as Material | undefined)?.dispose();
  });
}
