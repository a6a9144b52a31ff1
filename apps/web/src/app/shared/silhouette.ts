import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Tool } from '@esquisse/core';

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
    .holder {
      stroke: var(--pencil);
    }
  `,
  template: `
    <svg [attr.viewBox]="frame()" preserveAspectRatio="xMinYMid meet" aria-hidden="true">
      <path class="holder" [attr.d]="holder()" />
      <path [attr.d]="body()" />
      <path class="edge" [attr.d]="edge()" />
    </svg>
  `,
})
export class Silhouette {
  readonly tool = input.required<Tool>();
  /** Length of the holder that is drawn, mm. */
  readonly holderShown = input(60);

  protected readonly frame = computed(() => {
    const t = this.tool();
    const half = Math.max(t.cutter.DC, ...t.holder.stack.map((f) => Math.max(f.bottomDiameter, f.topDiameter))) / 2 + 2;
    return `-2 ${-half} ${t.assembly.stickOut + this.holderShown() + 4} ${2 * half}`;
  });

  protected readonly edge = computed(() => {
    const { DC, RE, APMX } = this.tool().cutter;
    const r = DC / 2;
    return `M ${APMX} ${-r} H ${RE} A ${RE} ${RE} 0 0 0 0 ${-(r - RE)} V ${r - RE} A ${RE} ${RE} 0 0 0 ${RE} ${r} H ${APMX}`;
  });

  protected readonly body = computed(() => {
    const { cutter, assembly } = this.tool();
    const s = cutter.DMM / 2;
    const r = cutter.DC / 2;
    return `${this.edge()} V ${s} H ${assembly.stickOut} V ${-s} H ${cutter.APMX} V ${-r} Z`;
  });

  protected readonly holder = computed(() => {
    const { assembly, holder } = this.tool();
    let x = assembly.stickOut;
    const end = x + this.holderShown();
    const upper: string[] = [];
    const lower: string[] = [];
    for (const f of holder.stack) {
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
