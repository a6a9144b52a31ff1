import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router } from '@angular/router';
import {
  type Hole,
  isCancelled,
  kindOf,
  messageOf,
  type StepKind,
  type Vec3,
  type Zone,
  type ZoneKind,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../../engine/engine';
import { House } from '../../keeping/house';
import { Looking } from '../../lens/looking';
import { length, unitOf, volume } from '../../shared/units';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { withNewStep, withValue } from '../../state/edit';
import { Told } from '../../state/told';
import { PartSteps } from './partSteps';
import { PieceLook } from './pieceLook';

const WORDS: Record<ZoneKind, string> = {
  above: 'above',
  around: 'around',
  open: 'open side',
  pocket: 'pocket',
};
/** A zone of about the area of an upright hole that lies over it is that hole. */
const HOLE_AREAS = [0.7, 1.4] as const;

/** A line of the list: a zone, or all that are holes. */
interface Row {
  readonly zone: Zone;
  readonly label: string;
  readonly volume: string;
  readonly holes: readonly Hole[];
  readonly kinds: readonly StepKind[];
}
/** Kinds of step that clear a zone, the usual first. */
const CLEARED_BY: Record<ZoneKind, readonly string[]> = {
  above: ['facing', 'level-roughing'],
  around: ['level-roughing', 'steady-roughing', 'profile'],
  open: ['level-roughing', 'steady-roughing'],
  pocket: ['level-roughing', 'steady-roughing'],
};
/** So many zones are listed; what is smaller is told together. */
const MOST_ROWS = 8;

/** Steel that is to be removed before the part is there, by zones; each leads to a step that clears it. */
@Component({
  selector: 'esq-zones-section',
  imports: [MatButtonModule, MatMenuModule, MatTooltipModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    h3 {
      font-size: 12px;
      margin: 12px 0 4px;
    }
    .zone {
      display: flex;
      align-items: center;
    }
    .entry {
      display: flex;
      flex: 1;
      justify-content: space-between;
      gap: 6px;
      min-width: 0;
      min-height: 24px;
      padding: 2px 4px;
      border-radius: 2px;
      font-size: 12px;
      text-align: left;
    }
    .number {
      font-family: var(--mono);
      white-space: nowrap;
    }
    .add {
      min-width: 24px;
      padding: 0;
    }
    .note {
      font-size: 12px;
      margin: 2px 4px;
    }
  `,
  template: `
    @if (rows().length > 0) {
      <h3 class="pencil">To be removed, {{ whole() }}</h3>
      @for (row of rows(); track $index) {
        <div class="zone" data-testid="zone">
          <button matButton class="entry" (click)="show(row.zone, row.label)">
            <span>{{ row.label }}</span><span class="number">{{ row.volume }}</span>
          </button>
          <button
            matButton
            class="plain add"
            matTooltip="A step that clears it"
            [attr.aria-label]="'Step for ' + row.label + ', ' + row.volume"
            [matMenuTriggerFor]="kinds"
          >
            +
          </button>
          <mat-menu #kinds="matMenu">
            @if (row.holes.length > 0) {
              <button mat-menu-item (click)="steps.forHoles(row.holes)">Steps for holes …</button>
            }
            @for (kind of row.kinds; track kind.id) {
              <button mat-menu-item (click)="add(row.zone, kind.id)">{{ kind.name }}</button>
            }
          </mat-menu>
        </div>
      }
      @if (others(); as o) {
        <p class="pencil note">{{ o }}</p>
      }
    }
  `,
})
export class ZonesSection {
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  private readonly house = inject(House);
  private readonly look = inject(PieceLook);
  private readonly looking = inject(Looking);
  private readonly router = inject(Router);
  private readonly store = inject(Store);
  private readonly toldJob = inject(Told);
  protected readonly steps = inject(PartSteps);
  private readonly zones = signal<readonly Zone[]>([]);
  private asked = '';

  constructor() {
    effect(() => {
      const key = this.engine.piece()?.steelKey ?? '';
      untracked(() => {
        if (key === this.asked) return;
        this.asked = key;
        this.zones.set([]);
        if (key) void this.fetch(key);
      });
    });
  }

  private readonly all = computed((): Row[] => {
    const found = this.look.survey()?.holes ?? [];
    const [x, y] = this.look.zero();
    const holeAt = (zone: Zone): Hole | undefined =>
      zone.kind !== 'pocket'
        ? undefined
        : found.find((hole) => {
            const diameter = Math.max(hole.diameter, hole.counterbore?.diameter ?? 0);
            const share = zone.area / ((Math.PI / 4) * diameter ** 2);
            const isOver = Math.hypot(zone.x + x - hole.x, zone.y + y - hole.y) < diameter / 2;
            return isOver && share > HOLE_AREAS[0] && share < HOLE_AREAS[1];
          });
    const rows: Row[] = [];
    const [holes, drilled]: [Hole[], Zone[]] = [[], []];
    for (const zone of this.zones()) {
      const hole = holeAt(zone);
      if (!hole) {
        rows.push({
          zone,
          label: `${WORDS[zone.kind]}, ${length(zone.top - zone.bottom, 1)} deep`,
          volume: `${volume(zone.volume, 1)} ${unitOf('cm³')}`,
          holes: [],
          kinds: CLEARED_BY[zone.kind].flatMap((id) => kindOf(id) ?? []),
        });
        continue;
      }
      holes.push(hole);
      drilled.push(zone);
    }
    if (holes.length === 0) return rows;
    const label = holes.length === 1 ? 'one hole' : `${holes.length} holes`;
    const all: Row = {
      zone: drilled[0]!,
      label,
      volume: `${volume(sum(drilled), 1)} ${unitOf('cm³')}`,
      holes,
      kinds: [],
    };
    return [...rows, all].sort(
      (a, b) => (b === all ? sum(drilled) : b.zone.volume) - (a === all ? sum(drilled) : a.zone.volume),
    );
  });
  protected readonly rows = computed(() => this.all().slice(0, MOST_ROWS));
  protected readonly whole = computed(() => `${volume(sum(this.zones()), 1)} ${unitOf('cm³')}`);
  protected readonly others = computed(() => {
    const rest = this.all()
      .slice(MOST_ROWS)
      .map(({ zone }) => zone);
    const words = rest.length === 1 ? 'one smaller' : `${rest.length} smaller`;
    return rest.length > 0 ? `${words}: ${volume(sum(rest), 2)} ${unitOf('cm³')}` : '';
  });

  protected show(zone: Zone, label: string): void {
    const [x, y, z] = this.look.zero();
    const at: Vec3 = [zone.x + x, zone.y + y, zone.bottom + z];
    this.look.light([], at, label);
  }

  /** A step behind all others that goes down to the zone's floor. */
  protected add(zone: Zone, kindId: string): void {
    const job = this.editor.job();
    const made = job && withNewStep(job, kindId, job.steps.at(-1)?.id ?? null, this.house.steps());
    if (!made) {
      const name = kindOf(kindId)?.name.toLowerCase() ?? kindId;
      this.store.dispatch(
        PlanActions.failed({
          trouble: { message: `No cutter of the crib does ${name}: make one there first.`, place: 'crib' },
        }),
      );
      return;
    }
    const floor = kindOf(kindId)?.fields.find((field) => field.height && field.key === 'bottom');
    const next = floor ? withValue(made.job, made.stepId, floor.key, Math.round(1000 * zone.bottom) / 1000) : made.job;
    if (this.editor.make('piece', () => next, made.stepId)) void this.router.navigateByUrl('/workplan');
  }

  private async fetch(key: string): Promise<void> {
    try {
      await this.toldJob.wait();
      if (this.asked !== key) return;
      const zones = await this.looking.watch('zones', 'steel to be removed', () => this.engine.zones());
      if (this.asked === key) this.zones.set(zones);
    } catch (error) {
      if (this.asked !== key || isCancelled(error)) return;
      this.asked = '';
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }
}

const sum = (zones: readonly Zone[]): number => zones.reduce((all, zone) => all + zone.volume, 0);
