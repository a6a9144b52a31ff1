import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { ChoiceField } from '../../shared/choiceField';
import { MatButtonModule } from '@angular/material/button';
import { type Fixture, sizeOf } from '@esquisse/core';
import { Engine } from '../../engine/engine';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';
import { Fold } from '../../shared/fold';

const WORDS: Record<Fixture['kind'], string> = {
  vise: 'Vise',
  plate: 'Plate under the block',
  clamps: 'Clamps on top',
  box: 'Box',
};

const AXES = [
  { value: 'X', label: 'along X' },
  { value: 'Y', label: 'along Y' },
];

const LABELS: Record<string, string> = {
  grip: 'Height held between the jaws',
  jaw: 'Thickness of a jaw',
  width: 'Width',
  thickness: 'Thickness',
  beyond: 'Beyond the block',
  over: 'Over the edge of the block',
  height: 'Height',
  x: 'Middle in X, from the block',
  y: 'Middle in Y, from the block',
  z: 'Underside, from the block',
  sizeX: 'Size in X',
  sizeY: 'Size in Y',
  sizeZ: 'Size in Z',
};

/** What holds the block, and must not be touched by any part of cutter, shank or holder. */
@Component({
  selector: 'esq-hold-section',
  imports: [ChoiceField, Fold, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <esq-fold name="Fixtures" open>
      @for (f of fixtures(); track $index; let i = $index) {
        <div class="row">
          <b>{{ words[f.fixture.kind] }}</b>
          <span>
            @if (f.axis) {
              <esq-choice-field
                bare
                [label]="'Axis of ' + words[f.fixture.kind]"
                [value]="f.axis"
                [options]="axes"
                (chosen)="turn(i, $any($event))"
              />
            }
            <button matButton class="plain" [attr.aria-label]="'Remove: ' + words[f.fixture.kind]" (click)="remove(i)">
              ×
            </button>
          </span>
        </div>
        @for (v of f.values; track v.key) {
          <esq-value-field [label]="v.label" [key]="v.key" [value]="v.value" unit="mm" [accept]="acceptor(i, v.key)" />
        }
      } @empty {
        <p class="pencil">None yet. No part of cutter, shank or holder may touch what you add here.</p>
      }
      <div class="add" role="group" aria-label="Add a fixture">
        @for (kind of kinds; track kind) {
          <button matButton="outlined" class="press" (click)="add(kind)">{{ words[kind] }}</button>
        }
      </div>
    </esq-fold>
  `,
  styles: `
    .add {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      margin-top: 4px;
    }
    .add .press {
      padding: 3px 7px;
    }
  `,
})
export class HoldSection {
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  protected readonly words = WORDS;
  protected readonly axes = AXES;
  protected readonly kinds = Object.keys(WORDS) as Fixture['kind'][];

  protected readonly fixtures = computed(() =>
    (this.editor.job()?.setup.fixtures ?? []).map((fixture) => ({
      fixture,
      axis: 'axis' in fixture ? fixture.axis : undefined,
      values: Object.entries(fixture)
        .filter(([, value]) => typeof value === 'number')
        .map(([key, value]) => ({ key, label: LABELS[key] ?? key, value: value as number })),
    })),
  );

  protected acceptor(index: number, key: string): (value: number | null) => string | undefined {
    return (value) =>
      this.change((all) => all.map((f, i) => (i === index ? ({ ...f, [key]: value ?? 0 } as Fixture) : f)));
  }

  protected turn(index: number, axis: 'X' | 'Y'): void {
    this.change((all) => all.map((f, i) => (i === index && 'axis' in f ? { ...f, axis } : f)));
  }

  protected remove(index: number): void {
    this.change((all) => all.filter((_, i) => i !== index));
  }

  protected add(kind: Fixture['kind']): void {
    const part = this.engine.piece()?.boxes.part;
    const width = part ? Math.round(Math.min(...sizeOf(part).slice(0, 2))) : 100;
    const fresh: Record<Fixture['kind'], Fixture> = {
      vise: { kind: 'vise', axis: 'Y', grip: 8, jaw: 25, width },
      plate: { kind: 'plate', thickness: 20, beyond: 40 },
      clamps: { kind: 'clamps', axis: 'X', over: 8, width: 25, height: 15 },
      box: { kind: 'box', x: 0, y: width, z: 0, sizeX: 40, sizeY: 40, sizeZ: 40 },
    };
    this.change((all) => [...all, fresh[kind]]);
  }

  private change(change: (all: Fixture[]) => Fixture[]): string | undefined {
    return this.editor.change((job) => ({ ...job, setup: { ...job.setup, fixtures: change(job.setup.fixtures) } }));
  }
}
