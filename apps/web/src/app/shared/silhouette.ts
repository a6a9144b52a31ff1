import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { clampingStack, type CutterKind, neckEnd, shankStack, type Tool, upTo } from '@esquisse/core';

const POINTED: readonly CutterKind[] = ['drill', 'spot', 'chamfer'];

/** Cutter, neck and holder drawn to scale, lying on their side with the tip at the left. */
@Component({
  selector: 'esq-silhouette',
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    :host {
      display: block;
    }
    svg {
      display: block;
      width: 100%;
      height: 100%;
    }
    path {
      stroke: var(--ink);
      fill: var(--paper);
      vector-effect: non-scaling-stroke;
    }
    .edge {
      stroke: var(--verdigris);
      stroke-width: 2;
      fill: none;
    }
    .handle {
      cursor: ew-resize;
      touch-action: none;
    }
    .holder {
      stroke: var(--pencil);
    }
  `,
  template: `
    <svg [attr.viewBox]="frame()" preserveAspectRatio="xMinYMid meet" aria-hidden="true">
      <path
        class="holder"
        [class.handle]="draggable()"
        [attr.d]="holder()"
        (pointerdown)="grab($event)"
        (pointermove)="move($event)"
        (pointerup)="drop()"
      />
      <path [attr.d]="body()" />
      <path class="edge" [attr.d]="edge()" />
    </svg>
  `,
})
export class Silhouette {
  readonly tool = input.required<Tool>();
  /** Length of the holder that is drawn, mm. */
  readonly holderShown = input(60);
  /** Whether the holder can be dragged along the cutter; the new stick-out is told when it is let go. */
  readonly draggable = input(false);
  readonly stickOut = output<number>();
  private readonly held = signal<{ at: number; stickOut: number } | undefined>(undefined);
  private readonly out = computed(() => this.held()?.stickOut ?? this.tool().assembly.stickOut);

  protected grab(event: PointerEvent): void {
    if (!this.draggable()) return;
    (event.target as Element).setPointerCapture(event.pointerId);
    this.held.set({ at: this.along(event), stickOut: this.tool().assembly.stickOut });
  }

  protected move(event: PointerEvent): void {
    const held = this.held();
    if (!held) return;
    const { cutter, assembly } = this.tool();
    const moved = assembly.stickOut + this.along(event) - held.at;
    const stickOut = Math.round(Math.max(neckEnd(cutter), Math.min(cutter.OAL, moved)) * 2) / 2;
    this.held.set({ ...held, stickOut });
  }

  protected drop(): void {
    const held = this.held();
    this.held.set(undefined);
    if (held && held.stickOut !== this.tool().assembly.stickOut) this.stickOut.emit(held.stickOut);
  }

  /** Place of a pointer along the tool, mm from the tip. */
  private along(event: PointerEvent): number {
    const svg = (event.target as SVGGraphicsElement).ownerSVGElement!;
    return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM()!.inverse()).x;
  }

  protected readonly frame = computed(() => {
    const t = this.tool();
    const half =
      Math.max(t.cutter.DC, ...clampingStack(t).map((f) => Math.max(f.bottomDiameter, f.topDiameter))) / 2 + 2;
    return `-2 ${-half} ${t.assembly.stickOut + this.holderShown() + 4} ${2 * half}`;
  });

  protected readonly edge = computed(() => {
    const { kind, DC, RE, APMX, SIG } = this.tool().cutter;
    const r = DC / 2;
    const half = Math.tan((SIG * Math.PI) / 360);
    if (POINTED.includes(kind) && half > 0) {
      const point = Math.min(APMX, r / half);
      return `M ${APMX} ${-r} H ${point} L 0 ${-(r - point * half)} V ${r - point * half} L ${point} ${r} H ${APMX}`;
    }
    if (kind === 'tapered' && half > 0) {
      // the ball meets the cone where their directions agree
      const taper = (SIG * Math.PI) / 360;
      const [x, y] = [RE * (1 - Math.sin(taper)), RE * Math.cos(taper)];
      const wide = Math.min(r, y + (APMX - x) * half);
      return `M ${APMX} ${-wide} L ${x} ${-y} A ${RE} ${RE} 0 0 0 ${x} ${y} L ${APMX} ${wide}`;
    }
    return `M ${APMX} ${-r} H ${RE} A ${RE} ${RE} 0 0 0 0 ${-(r - RE)} V ${r - RE} A ${RE} ${RE} 0 0 0 ${RE} ${r} H ${APMX}`;
  });

  protected readonly body = computed(() => {
    const { cutter } = this.tool();
    const upper: string[] = [];
    const lower: string[] = [];
    let x = cutter.APMX;
    for (const f of upTo(shankStack(cutter), this.out() - x)) {
      lower.push(`${x} ${f.bottomDiameter / 2}`, `${x + f.length} ${f.topDiameter / 2}`);
      upper.unshift(`${x + f.length} ${-f.topDiameter / 2}`, `${x} ${-f.bottomDiameter / 2}`);
      x += f.length;
    }
    return `${this.edge()} L ${[...lower, ...upper].join(' L ')} L ${cutter.APMX} ${-cutter.DC / 2} Z`;
  });

  protected readonly holder = computed(() => {
    let x = this.out();
    const end = x + this.holderShown();
    const upper: string[] = [];
    const lower: string[] = [];
    for (const f of clampingStack(this.tool())) {
      if (x >= end) break;
      const share = Math.min(1, (end - x) / f.length);
      const top = f.bottomDiameter + (f.topDiameter - f.bottomDiameter) * share;
      const to = Math.min(end, x + f.length);
      upper.push(`${x} ${-f.bottomDiameter / 2}`, `${to} ${-top / 2}`);
      lower.unshift(`${to} ${top / 2}`, `${x} ${f.bottomDiameter / 2}`);
      x = to;
    }
    return `M ${[...upper, ...lower].join(' L ')} Z`;
  });
}
