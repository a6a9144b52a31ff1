import { ChangeDetectionStrategy, Component, computed, HostListener, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import {
  type BodyRole,
  formatOf,
  PART_FORMATS,
  reportSentences,
  revisionSentence,
  withBodies,
  type LengthUnit,
  UNIT_SYMBOLS,
  sizeDoubt,
} from '@esquisse/core';
import { Engine } from '../../engine/engine';
import { Jobs, type RoledFile } from '../../keeping/jobs';
import { ChoiceField, choicesOf } from '../../shared/choiceField';
import { ROLE_CHOICES, ROLE_WORDS } from '../../shared/roles';
import { area, length, told, unitOf, volume } from '../../shared/units';
import { Editor } from '../../state/editor';
import { PieceLook } from './pieceLook';

/** Files of the piece: what they hold, what each body is, and what a new revision changed. */
@Component({
  selector: 'esq-model-section',
  imports: [ChoiceField, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="section">
      <h2>Model</h2>
      @if (job()?.part; as part) {
        <div class="row">
          <span>File</span><span class="mono">{{ part.file }}</span>
        </div>
        @if (piece(); as p) {
          <div class="row">
            <span>Triangles / faces</span><span class="number">{{ p.triangles }} / {{ p.faces }}</span>
          </div>
          <div class="row">
            <span>Volume</span
            ><span class="number"
              >{{ volume(p.volume, 2) }} <span class="unit">{{ unitOf('cm³') }}</span></span
            >
          </div>
          @if (p.bodies.length > 1) {
            @for (body of p.bodies; track $index; let n = $index) {
              <esq-choice-field
                testId="body-role"
                [label]="body.name + ' is'"
                [value]="part.roles[n] ?? 'part'"
                [options]="roles"
                (chosen)="role(n, $any($event))"
              />
            }
          }
          @for (line of putRight(); track line) {
            <p class="note" data-testid="put-right">{{ told(line) }}</p>
          }
          @if (doubt(); as d) {
            <p class="note stale">
              {{ told(d.sentence) }}
              @if (!fileSaysUnit()) {
                <button matButton class="plain" (click)="reread(d.unit)">Read it in {{ d.unit }}</button>
              }
            </p>
          }
          @if (p.revision || p.followed.length + p.outlines.length > 0) {
            <p class="note" data-testid="revision">
              @if (p.revision; as r) {
                {{ told(sentence(r)) }}
              }
              @for (f of p.followed; track $index) {
                @if ('isLost' in f && f.isLost) {
                  <span class="stale"
                    >"{{ f.step }}", {{ f.label }}: its place is not found again, so {{ length(f.to) }} stays and is
                    bound no more: look at it.
                  </span>
                } @else {
                  <span>"{{ f.step }}", {{ f.label }}: {{ length(f.from) }} became {{ length(f.to) }}. </span>
                }
              }
              @for (o of p.outlines; track $index) {
                @if (o.by === undefined) {
                  <span class="stale"
                    >"{{ o.step }}", {{ o.source }}: its faces are not all found again, so the limit stays as it was:
                    look at it.
                  </span>
                } @else {
                  <span>"{{ o.step }}", {{ o.source }}: moved by up to {{ length(o.by, 2) }} {{ unitOf('mm') }}. </span>
                }
              }
              @for (m of p.revision?.isScaled ? [] : p.revision?.moved?.slice(0, 6); track $index) {
                <button matButton class="plain mono" (click)="look.light([], m.at)">
                  moved {{ length(m.distance, 2) }}
                </button>
              }
              @for (m of p.revision?.added?.slice(0, 4); track $index) {
                <button matButton class="plain mono" (click)="look.light([], m.at)">
                  new {{ area(m.area, 2) }} {{ unitOf('cm²') }}
                </button>
              }
            </p>
          }
        }
        @for (other of job()!.others; track other.file) {
          <div class="row">
            <span class="mono">{{ other.file }}</span>
            <span>
              {{ words[other.role] }}
              <button
                matButton
                class="plain"
                [attr.aria-label]="'Leave out ' + other.file"
                (click)="leaveOut(other.file)"
              >
                ×
              </button>
            </span>
          </div>
        }
      }
      @for (b of brought(); track b.file.name) {
        <div class="row">
          <span class="mono">{{ b.file.name }}</span>
          <esq-choice-field
            bare
            [label]="'What is ' + b.file.name"
            [value]="b.role"
            [options]="roles"
            (chosen)="say(b, $any($event))"
          />
        </div>
      }
      @if (brought().length > 0) {
        <button matButton="outlined" class="press first" (click)="takeBrought()">Take these in</button>
        <button matButton class="plain" (click)="brought.set([])">Not now</button>
      } @else {
        <esq-choice-field
          label="Unit of files without one"
          [value]="unit()"
          [options]="units"
          (chosen)="unit.set($any($event))"
        />
        <button matButton="outlined" class="press" (click)="file.click()">Bring in a part …</button>
        @if (job()?.part) {
          <button matButton="outlined" class="press" (click)="other.click()">Blank or fixture …</button>
        }
        <p class="pencil">or drop or paste files here: {{ formats }}</p>
      }
      <input #file type="file" hidden [accept]="endings" data-testid="part-file" (change)="pick($event, 'part')" />
      <input
        #other
        type="file"
        hidden
        multiple
        [accept]="endings"
        data-testid="other-file"
        (change)="pick($event, 'fixture')"
      />
    </section>
  `,
  styles: `
    .note {
      font-size: 12px;
      border-left: 2px solid var(--indigo);
      padding-left: 8px;
      margin: 4px 0;
    }
    .press {
      margin-right: 6px;
    }
  `,
})
export class ModelSection {
  private readonly jobs = inject(Jobs);
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  protected readonly look = inject(PieceLook);
  protected readonly job = this.editor.job;
  protected readonly piece = this.engine.piece;
  protected readonly roles = ROLE_CHOICES;
  protected readonly words = ROLE_WORDS;
  protected readonly endings = PART_FORMATS.flatMap((f) => f.endings.map((e) => `.${e}`)).join(',');
  protected readonly formats = PART_FORMATS.map((f) => f.name).join(', ');
  protected readonly units = choicesOf(UNIT_SYMBOLS);
  protected readonly unit = signal<LengthUnit>('mm');
  protected readonly brought = signal<readonly RoledFile[]>([]);
  protected readonly area = area;
  protected readonly length = length;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  protected readonly volume = volume;
  protected readonly sentence = revisionSentence;

  /** A doubt about the unit that the part was read in. */
  protected readonly doubt = computed(() => {
    const part = this.job()?.part;
    const boxes = this.piece()?.boxes;
    return part && boxes && sizeDoubt(part, boxes.part);
  });

  protected readonly fileSaysUnit = computed(() => formatOf(this.job()?.part?.file ?? '').hasUnit);

  /** What was put right in the file, and what could not be. */
  protected readonly putRight = computed(() => {
    const piece = this.piece();
    return piece ? [...piece.doubts, ...reportSentences(piece.report)] : [];
  });

  protected role(body: number, role: BodyRole): void {
    void this.jobs.changeBodies((job) =>
      withBodies(job, () => ({
        ...job,
        part: job.part && { ...job.part, roles: { ...job.part.roles, [String(body)]: role } },
      })),
    );
  }

  protected leaveOut(file: string): void {
    void this.jobs.changeBodies((job) => ({ ...job, others: job.others.filter((o) => o.file !== file) }));
  }

  protected reread(unit: LengthUnit): void {
    void this.jobs.rereadPart(unit);
  }

  protected pick(event: Event, role: BodyRole): void {
    const input = event.target as HTMLInputElement;
    const files = [...(input.files ?? [])];
    input.value = '';
    this.bring(files, role);
  }

  protected say(entry: RoledFile, role: BodyRole): void {
    this.brought.update((all) => all.map((b) => (b === entry ? { ...b, role } : b)));
  }

  protected async takeBrought(): Promise<void> {
    const all = this.brought();
    this.brought.set([]);
    for (const { file, role } of [...all].sort((a, b) => Number(b.role === 'part') - Number(a.role === 'part')))
      if (role === 'part') await this.jobs.importPart(file, this.unit());
      else if (role !== 'ignored') await this.jobs.importOther(file, this.unit(), role);
  }

  @HostListener('document:drop', ['$event'])
  protected drop(event: DragEvent): void {
    this.bring([...(event.dataTransfer?.files ?? [])], 'part');
  }

  @HostListener('document:paste', ['$event'])
  protected paste(event: ClipboardEvent): void {
    const files = [...(event.clipboardData?.files ?? [])];
    if (files.length > 0) this.bring(files, 'part');
  }

  /** One part is taken at once; of several files it is asked what each is. */
  private bring(files: File[], role: BodyRole): void {
    const [first] = files;
    if (!first) return;
    if (files.length === 1 && first.name.toLowerCase().endsWith('.zip')) void this.jobs.openFile(first);
    else if (files.length === 1 && role === 'part') void this.jobs.importPart(first, this.unit());
    else this.brought.set(files.map((file, k) => ({ file, role: role === 'part' && k > 0 ? 'fixture' : role })));
  }
}
