import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { Store } from '@ngrx/store';
import { css } from '../bench/palette';
import { PathChoice } from '../bench/pathChoice';
import { contactShade, PATH_KINDS, pathShade, rangeOf } from '../bench/pathLines';
import { runOf } from '../engine/runs';
import { ChoiceField } from '../shared/choiceField';
import { Theme } from '../shared/theme';
import { feed, length, unitOf } from '../shared/units';
import { planFeature } from '../state/plan.reducer';
import { Playback } from '../strip/playback';

const COLOURS = [
  { value: 'kind', label: 'kind of motion' },
  { value: 'feed', label: 'feed' },
  { value: 'height', label: 'height' },
  { value: 'pass', label: 'pass' },
];
const CONTACT = { value: 'contact', label: 'contact speed' };
const SHARES = [
  { value: 'all', label: 'all of it' },
  { value: 'behind', label: 'up to the playhead' },
  { value: 'pass', label: 'this pass' },
  { value: 'level', label: 'this level' },
];
const KIND_WORDS = { cut: 'Cut', entry: 'Entry, exit', link: 'Link', rapid: 'Rapid' } as const;
/** Steps of the ramp in the legend. */
const STEPS = [0, 0.2, 0.4, 0.6, 0.8, 1];

/** What is seen of the path of the step at the playhead, and what its colours say. */
@Component({
  selector: 'esq-path-panel',
  imports: [ChoiceField, MatCheckboxModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="kinds">
      <mat-checkbox [checked]="choice.isShown()" (change)="choice.isShown.set($event.checked)">Path</mat-checkbox>
      <mat-checkbox [checked]="choice.hasTool()" (change)="choice.hasTool.set($event.checked)">Tool</mat-checkbox>
    </div>
    <mat-checkbox [checked]="playback.stopsAtContacts()" (change)="playback.stopsAtContacts.set($event.checked)"
      >Playing stops at contacts</mat-checkbox
    >
    @if (choice.isShown()) {
      <esq-choice-field
        label="Show"
        [value]="choice.share()"
        [options]="shares"
        (chosen)="choice.share.set($any($event))"
      />
      <esq-choice-field
        label="Colour by"
        [value]="choice.colour()"
        [options]="colours()"
        (chosen)="choice.colour.set($any($event))"
      />
      <div class="kinds" role="group" aria-label="Kinds of motion">
        @for (kind of kinds; track kind) {
          <mat-checkbox [checked]="choice.kinds().includes(kind)" (change)="choice.toggle(kind, $event.checked)">
            <span class="kind" [class]="kind" aria-hidden="true"></span>{{ words[kind] }}
          </mat-checkbox>
        }
      </div>
      @if (ramp(); as r) {
        <div class="ramp" role="img" [attr.aria-label]="r.words">
          @for (colour of r.colours; track $index) {
            <span [style.background]="colour"></span>
          }
        </div>
        <div class="row mono pencil">
          <span>{{ r.low }}</span><span>{{ r.high }}</span>
        </div>
      }
    }
  `,
  styles: `
    :host {
      display: block;
      margin-top: 10px;
      padding-top: 6px;
      border-top: 1px solid var(--rule);
    }
    .kinds {
      display: grid;
      grid-template-columns: auto auto;
    }
    .kind {
      display: inline-block;
      width: 16px;
      margin-right: 5px;
      vertical-align: middle;
      border-top: 2px solid var(--ink);
    }
    .entry {
      border-color: var(--verdigris);
    }
    .link {
      border-top: 2px dashed var(--pencil);
    }
    .rapid {
      border-top: 2px dashed var(--indigo);
    }
    .ramp {
      display: grid;
      grid-auto-flow: column;
      height: 8px;
      margin-top: 4px;
    }
    .row {
      font-size: 11px;
    }
  `,
})
export class PathPanel {
  protected readonly playback = inject(Playback);
  protected readonly choice = inject(PathChoice);
  private readonly theme = inject(Theme);
  private readonly at = inject(Store).selectSignal(planFeature.selectAt);
  private readonly run = computed(() => {
    const at = this.at();
    return at && runOf(at.summary);
  });
  /** What there is to be told by colours: the contact of balls that finish alone. */
  protected readonly colours = computed(() => (this.run()?.contact ? [...COLOURS, CONTACT] : COLOURS));
  protected readonly shares = SHARES;
  protected readonly kinds = PATH_KINDS;
  protected readonly words = KIND_WORDS;

  /** The ramp of feeds or heights with its ends. */
  protected readonly ramp = computed(() => {
    const colour = this.choice.colour();
    const run = this.run();
    if (colour === 'contact' && run?.contact) {
      const colours = STEPS.map((t) => css(contactShade(this.theme.palette(), 100 * t)));
      return { low: '0 % of vc', high: '100 %', colours, words: 'speed of the edge where it touches' };
    }
    if (!run || (colour !== 'feed' && colour !== 'height')) return undefined;
    const range = rangeOf(run.path, colour);
    const [low, high] = range.map((v) =>
      colour === 'feed' ? `${feed(v)} ${unitOf('mm/min')}` : `${length(v)} ${unitOf('mm')}`,
    );
    const colours = STEPS.map((t) => css(pathShade(range[0] + t * (range[1] - range[0]), range)));
    return { low, high, colours, words: `${colour} from ${low} to ${high}` };
  });
}
