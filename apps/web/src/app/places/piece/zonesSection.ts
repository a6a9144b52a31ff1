import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { Router } from '@angular/router';
import { isCancelled, kindOf, messageOf, type Vec3, type Zone, type ZoneKind } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../../engine/engine';
import { House } from '../../keeping/house';
import { Looking } from '../../lens/looking';
import { length, unitOf, volume } from '../../shared/units';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { withNewStep, withValue } from '../../state/edit';
import { Told } from '../../state/told';
import { PieceLook } from './pieceLook';

const WORDS: Record<ZoneKind, string> = {
  above: 'above the part',
  around: 'around the part',
  open: 'open to a side',
  pocket: 'pocket',
};
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
  imports: [MatButtonModule, MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './surveyPanel.scss',
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
            class="plain"
            [attr.aria-label]="'Step for ' + row.label + ', ' + row.volume"
            [matMenuTriggerFor]="kinds"
          >
            Step …
          </button>
          <mat-menu #kinds="matMenu">
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

  protected readonly rows = computed(() =>
    this.zones()
      .slice(0, MOST_ROWS)
      .map((zone) => ({
        zone,
        label: `${WORDS[zone.kind]}, ${length(zone.top - zone.bottom, 1)} ${unitOf('mm')} deep`,
        volume: `${volume(zone.volume, 1)} ${unitOf('cm³')}`,
        kinds: CLEARED_BY[zone.kind].flatMap((id) => kindOf(id) ?? []),
      })),
  );
  protected readonly whole = computed(() => `${volume(sum(this.zones()), 1)} ${unitOf('cm³')}`);
  protected readonly others = computed(() => {
    const rest = this.zones().slice(MOST_ROWS);
    return rest.length > 0 ? `${rest.length} smaller ones: ${volume(sum(rest), 2)} ${unitOf('cm³')}` : '';
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
