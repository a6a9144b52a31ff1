import { clampingStack, type Tool } from '@esquisse/core';
import { Color, Group, type Mesh, type ShaderMaterial } from 'three';
import { clear, type Shown } from './shown';
import { toolSolids } from './solids';
import { LEVEL_LIGHT, setSeen, TO_EYE } from './studio';

/** How much of a tool is seen that stands before the place where it cuts. */
const GHOST = 0.22;

/** The tool at the playhead. */
export class ToolView {
  readonly tool = new Group();
  /** What the drawn tool was made of. */
  private drawnTool: readonly unknown[] = [];
  /** Ends of what holds the cutter: height over its tip, and radius, mm. */
  private held: readonly { height: number; radius: number }[] = [];

  constructor(private readonly shown: Shown) {}

  /**
   * The tool; one that is drawn already is only moved.
   *
   * @param isWrong it touches what it must not
   */
  set(tool: Tool | undefined, isWrong: boolean, at?: readonly [number, number, number]): void {
    const made = tool && [tool.cutter, tool.assembly, tool.holder, ...tool.extensions, this.shown.palette, isWrong];
    if (!made || made.length !== this.drawnTool.length || made.some((part, k) => part !== this.drawnTool[k])) {
      clear(this.tool);
      this.drawnTool = made ?? [];
      if (tool) {
        // as it is told on a face in full light
        const sanguine = `#${new Color(this.shown.palette.sanguine).multiplyScalar(1 / LEVEL_LIGHT).getHexString()}`;
        const wrong = { flutes: sanguine, shank: sanguine, holder: sanguine };
        this.tool.add(...toolSolids(tool, isWrong ? { ...this.shown.palette, ...wrong } : this.shown.palette));
        let height = tool.assembly.stickOut;
        this.held = clampingStack(tool).flatMap(({ bottomDiameter, topDiameter, length }) => {
          const bottom = { height, radius: bottomDiameter / 2 };
          height += length;
          return [bottom, { height, radius: topDiameter / 2 }];
        });
      }
    }
    if (at) this.tool.position.set(...at);
    this.shown.draw();
  }

  /** A tool that hides the place where it cuts is drawn as a ghost: the line from its tip to the eye meets what holds it. */
  ghostTool(): void {
    const away = Math.hypot(TO_EYE.x, TO_EYE.y);
    const isBefore = TO_EYE.z > 0 && this.held.some((h) => h.height * away < h.radius * TO_EYE.z);
    this.tool.traverse((object) => {
      const { material } = object as Partial<Mesh>;
      if (material && 'uniforms' in material) setSeen(material as ShaderMaterial, isBefore ? GHOST : 1);
    });
  }
}
