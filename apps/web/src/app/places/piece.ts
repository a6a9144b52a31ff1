import { ChangeDetectionStrategy, Component, computed, HostListener, inject, signal } from '@angular/core';
import {
  blockBox,
  type Blank,
  BOX_LEVELS,
  boxOf,
  type BoxLevel,
  type Material,
  PART_FORMATS,
  sizeOf,
  volumeOf,
  type WorkZero,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Bench } from '../bench/bench';
import { Engine } from '../engine/engine';
import { Jobs } from '../keeping/jobs';
import { mm } from '../shared/numbers';
import { ValueField } from '../shared/valueField';
import { Editor } from '../state/editor';
import { PlanActions, planFeature } from '../state/plan.reducer';

/** House list of materials: EN ISO 4957 and EN 10083 names; kc1.1 and mc as in machining handbooks, from memory. */
const MATERIALS: Material[] = [
  { name: '40CrMnMo7, pre-hardened 300 HB', group: 'P', kc11: 2500, mc: 0.26, density: 7.8 },
  { name: 'X38CrMoV5-1, annealed', group: 'P', kc11: 2250, mc: 0.24, density: 7.8 },
  { name: 'X38CrMoV5-1, 52 HRC', group: 'H', kc11: 4300, mc: 0.24, density: 7.8 },
  { name: 'C45', group: 'P', kc11: 2220, mc: 0.14, density: 7.85 },
  { name: '42CrMo4', group: 'P', kc11: 2500, mc: 0.26, density: 7.8 },
];

const SIDES = [
  ['minX', 'X low side'],
  ['maxX', 'X high side'],
  ['minY', 'Y low side'],
  ['maxY', 'Y high side'],
  ['minZ', 'below'],
  ['maxZ', 'above'],
] as const;
const SIZES = [
  ['sizeX', 'X'],
  ['sizeY', 'Y'],
  ['sizeZ', 'Z'],
  ['below', 'below the part'],
] as const;

/** What is it, how does it lie, where is zero, what block? */
@Component({
  selector: 'esq-piece',
  imports: [Bench, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './piece.scss',
  template: `
    <esq-bench [partOnly]="true" />
    <aside class="panel" aria-label="Piece">
      @if (job(); as j) {
        <p class="sentence">
          @if (size(); as s) {
            {{ mm(s[0], 1) }} x {{ mm(s[1], 1) }} x {{ mm(s[2], 1) }} mm, out of a block of {{ mm(block()![0], 1) }} x
            {{ mm(block()![1], 1) }} x {{ mm(block()![2], 1) }} mm of {{ j.material.name }}. The operator probes
            {{ probe() }}.
          } @else {
            Bring in the part: {{ formats }}.
          }
        </p>
        <section class="section">
          <h2>Model</h2>
          <div class="row">
            <span>File</span><span class="mono">{{ j.part?.file ?? 'none yet' }}</span>
          </div>
          @if (figures(); as f) {
            <div class="row">
              <span>Triangles / faces</span><span class="number">{{ f.triangles }} / {{ f.faces }}</span>
            </div>
            <div class="row">
              <span>Volume</span><span class="number">{{ mm(f.volume / 1000, 2) }} <span class="unit">cm³</span></span>
            </div>
            <div class="row">
              <span>Weight of the block</span
              ><span class="number">{{ mm(f.weight, 2) }} <span class="unit">kg</span></span>
            </div>
          }
          <div class="row">
            <label for="unit">Unit of files without one</label>
            <select id="unit" class="value" (change)="unit.set($any($event.target).value)">
              <option value="mm">mm</option>
              <option value="in">in</option>
            </select>
          </div>
          <button class="press" (click)="file.click()">Bring in a part …</button>
          <span class="pencil"> or drop it here</span>
          <input #file type="file" hidden [accept]="endings" data-testid="part-file" (change)="pick($event)" />
        </section>
        <section class="section">
          <h2>Blank</h2>
          <div class="row">
            <label for="blank">Block</label>
            <select id="blank" class="value" (change)="blankKind($any($event.target).value)">
              <option value="offset" [selected]="j.blank.kind === 'offset'">steel around the part's box</option>
              <option value="fixed" [selected]="j.blank.kind === 'fixed'">fixed size</option>
            </select>
          </div>
          @for (f of blankFields(); track f.key) {
            <esq-value-field
              [label]="f.label"
              [key]="f.key"
              [value]="f.value"
              unit="mm"
              [accept]="blankAcceptor(f.key)"
            />
          }
        </section>
        <section class="section">
          <h2>Work zero</h2>
          <div class="row">
            <label for="of">Box point of</label>
            <select id="of" class="value" (change)="zero({ of: $any($event.target).value })">
              <option value="block" [selected]="j.setup.workZero.of === 'block'">the block</option>
              <option value="part" [selected]="j.setup.workZero.of === 'part'">the part</option>
            </select>
          </div>
          <div class="zero">
            <div class="grid" role="group" aria-label="Work zero in plan">
              @for (y of downward; track y) {
                @for (x of levels; track x) {
                  <button
                    [class.chosen]="j.setup.workZero.x === x && j.setup.workZero.y === y"
                    [attr.aria-pressed]="j.setup.workZero.x === x && j.setup.workZero.y === y"
                    [attr.aria-label]="'X ' + x + ', Y ' + y"
                    (click)="zero({ x: x, y: y })"
                  ></button>
                }
              }
            </div>
            <div class="heights" role="group" aria-label="Work zero in height">
              @for (z of downward; track z) {
                <button
                  class="plain"
                  [class.chosen]="j.setup.workZero.z === z"
                  [attr.aria-pressed]="j.setup.workZero.z === z"
                  (click)="zero({ z: z })"
                >
                  Z {{ z === 'high' ? 'top' : z === 'low' ? 'underside' : 'middle' }}
                </button>
              }
            </div>
          </div>
        </section>
        <section class="section">
          <h2>Material and machine</h2>
          <div class="row">
            <label for="material">Material</label>
            <select id="material" class="value" (change)="material($any($event.target).value)">
              @for (m of materials; track m.name) {
                <option [value]="m.name" [selected]="m.name === j.material.name">{{ m.name }}</option>
              }
            </select>
          </div>
          <div class="row">
            <span>ISO 513 group, kc1.1, mc</span
            ><span class="number">{{ j.material.group }}, {{ j.material.kc11 }}, {{ j.material.mc }}</span>
          </div>
          <div class="row">
            <span>Machine</span><span class="mono">{{ j.setup.machine.name }}</span>
          </div>
          <esq-value-field
            label="Crossing height over the block"
            key="safeHeight"
            [value]="j.setup.safeHeight"
            unit="mm"
            [accept]="acceptSafe"
          />
        </section>
      }
    </aside>
  `,
})
export class PiecePlace {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly jobs = inject(Jobs);
  private readonly editor = inject(Editor);
  protected readonly job = this.editor.job;
  private readonly ready = this.store.selectSignal(planFeature.selectReady);
  protected readonly materials = MATERIALS;
  protected readonly levels = BOX_LEVELS;
  protected readonly downward: BoxLevel[] = ['high', 'middle', 'low'];
  protected readonly endings = PART_FORMATS.flatMap((f) => f.endings.map((e) => `.${e}`)).join(',');
  protected readonly formats = PART_FORMATS.map((f) => f.name).join(', ');
  protected readonly unit = signal<'mm' | 'in'>('mm');
  protected readonly mm = mm;

  private readonly box = computed(() => {
    const mesh = this.ready() ? this.engine.part : undefined;
    this.job();
    return mesh && boxOf(mesh);
  });
  protected readonly size = computed(() => {
    const box = this.box();
    return box && sizeOf(box);
  });
  protected readonly block = computed(() => {
    const box = this.box();
    const job = this.job();
    return box && job ? sizeOf(blockBox(job, box)) : undefined;
  });
  protected readonly figures = computed(() => {
    const mesh = this.ready() ? this.engine.part : undefined;
    const job = this.job();
    const block = this.block();
    if (!mesh || !job || !block) return undefined;
    return {
      triangles: mesh.indices.length / 3,
      faces: new Set(mesh.faceOf).size,
      volume: Math.abs(volumeOf(mesh)),
      weight: (block[0] * block[1] * block[2] * job.material.density) / 1e6,
    };
  });

  protected readonly probe = computed(() => {
    const zero = this.job()?.setup.workZero;
    if (!zero) return '';
    const height = { high: 'the top', middle: 'half the height', low: 'the underside' }[zero.z];
    const side = (axis: 'X' | 'Y', level: BoxLevel): string => (level === 'middle' ? '' : `${axis} ${level} side`);
    const sides = [side('X', zero.x), side('Y', zero.y)].filter(Boolean);
    const place =
      sides.length === 0
        ? 'the middle of the plan'
        : sides.length === 2
          ? `the corner of ${sides.join(' and ')}`
          : `the middle of the ${sides[0]}`;
    return `${height} of the ${zero.of} and ${place}`;
  });

  protected readonly blankFields = computed(() => {
    const blank = this.job()?.blank;
    if (!blank) return [];
    return blank.kind === 'offset'
      ? SIDES.map(([key, label]) => ({ key, label: `Steel ${label}`, value: blank[key] }))
      : SIZES.map(([key, label]) => ({
          key,
          label: key === 'below' ? `Steel ${label}` : `Size in ${label}`,
          value: blank[key],
        }));
  });

  protected readonly acceptSafe = (value: number | null): string | undefined =>
    this.editor.change((job) => ({ ...job, setup: { ...job.setup, safeHeight: value ?? 0 } }));

  protected pick(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (file) void this.jobs.importPart(file, this.unit());
  }

  @HostListener('dragover', ['$event'])
  protected over(event: DragEvent): void {
    event.preventDefault();
  }

  @HostListener('drop', ['$event'])
  protected drop(event: DragEvent): void {
    event.preventDefault();
    const file = event.dataTransfer?.files[0];
    if (!file) return;
    if (file.name.toLowerCase().endsWith('.zip')) void this.jobs.openFile(file);
    else void this.jobs.importPart(file, this.unit());
  }

  protected blankAcceptor(key: string): (value: number | null) => string | undefined {
    return (value) => this.editor.change((job) => ({ ...job, blank: { ...job.blank, [key]: value ?? 0 } as Blank }));
  }

  protected blankKind(kind: Blank['kind']): void {
    const block = this.block();
    const job = this.job();
    if (!job || job.blank.kind === kind) return;
    const blank: Blank =
      kind === 'offset'
        ? { kind, minX: 0, maxX: 0, minY: 0, maxY: 0, minZ: 0, maxZ: 1 }
        : { kind, sizeX: block?.[0] ?? 100, sizeY: block?.[1] ?? 100, sizeZ: block?.[2] ?? 50, below: 0 };
    this.take(this.editor.change((j) => ({ ...j, blank })));
  }

  protected zero(change: Partial<WorkZero>): void {
    this.take(
      this.editor.change((job) => ({
        ...job,
        setup: { ...job.setup, workZero: { ...job.setup.workZero, ...change } },
      })),
    );
  }

  protected material(name: string): void {
    const material = MATERIALS.find((m) => m.name === name);
    if (material) this.take(this.editor.change((job) => ({ ...job, material })));
  }

  private take(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'piece' } }));
  }
}
