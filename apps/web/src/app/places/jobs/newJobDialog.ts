import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { type Beginning, type BodyRole, type Job, POSTS } from '@esquisse/core';
import { House } from '../../keeping/house';
import type { RoledFile } from '../../keeping/jobs';
import { ChoiceField, type Choice } from '../../shared/choiceField';
import { TextField } from '../../shared/textField';
import { ROLE_CHOICES } from '../../shared/roles';

/** What a new job begins with. */
export interface NewJob {
  readonly files: readonly RoledFile[];
  readonly beginning: Omit<Beginning, 'id' | 'part' | 'others'>;
}

/** The part's file and what else was brought with it, and the job whose cutters and steps can be taken. */
export interface NewJobWish {
  readonly files: readonly File[];
  readonly like: Job;
}

const NONE = '';
const SHOP = 'shop';

/** Asks what nobody can know from a part's file: material, machine, and the post of its control. */
@Component({
  selector: 'esq-new-job',
  imports: [ChoiceField, MatButtonModule, MatDialogModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 mat-dialog-title>New job from {{ part()?.name ?? wish.files.length + ' files' }}</h2>
    <mat-dialog-content>
      @if (wish.files.length > 1) {
        @for (f of files(); track $index; let n = $index) {
          <esq-choice-field
            testId="file-role"
            [label]="f.file.name + ' is'"
            [value]="f.role"
            [options]="roles"
            (chosen)="say(n, $any($event))"
          />
        }
        @if (!part()) {
          <p class="wrong">One of the files is the part: say which.</p>
        }
      }
      <esq-text-field label="Name of the job" [value]="name()" [accept]="rename" />
      <esq-choice-field label="Material" [value]="material()" [options]="materials()" (chosen)="material.set($event)" />
      <esq-choice-field label="Machine" [value]="machine()" [options]="machines()" (chosen)="machine.set($event)" />
      <esq-choice-field label="Post" [value]="post()" [options]="posts" (chosen)="post.set($event)" />
      <esq-choice-field label="Steps" [value]="steps()" [options]="beginnings" (chosen)="takeSteps($event)" />
      <esq-choice-field label="Cutters" [value]="cutters()" [options]="cribs()" (chosen)="cutters.set($event)" />
      @if (steps() !== '') {
        <p class="pencil">Steps come with the cutters of their job. Heights and limits are left open.</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions>
      <button matButton="filled" [disabled]="!made()" disabledInteractive (click)="begin()">Begin the job</button>
      <button matButton mat-dialog-close>Cancel</button>
    </mat-dialog-actions>
  `,
})
export class NewJobDialog {
  private readonly house = inject(House);
  private readonly dialog = inject<MatDialogRef<NewJobDialog, NewJob>>(MatDialogRef);
  protected readonly wish = inject<NewJobWish>(MAT_DIALOG_DATA);
  /** The largest is likely the part's; of others nobody knows. */
  protected readonly files = signal<readonly RoledFile[]>(rolesFor(this.wish.files));
  protected readonly roles = ROLE_CHOICES;
  protected readonly part = computed(() => this.files().find(({ role }) => role === 'part')?.file);
  /** As the part's file, until it is typed. */
  private readonly typed = signal<string | undefined>(undefined);
  protected readonly name = computed(
    () =>
      this.typed() ??
      (this.part()
        ?.name.replace(/\.[^.]*$/, '')
        .slice(0, 80) ||
        'New job'),
  );
  protected readonly material = signal(NONE);
  protected readonly machine = signal(NONE);
  /** Where there is one alone, it is that. */
  protected readonly post = signal(POSTS.length === 1 ? POSTS[0]!.id : NONE);
  protected readonly steps = signal(NONE);
  protected readonly cutters = signal(SHOP);
  protected readonly cribs = computed((): readonly Choice[] => [
    {
      value: SHOP,
      label: `the shop's crib, ${this.house.crib().assemblies.length}`,
      refused: this.steps() === NONE ? undefined : 'steps want their own cutters',
    },
    { value: 'like', label: `as in "${this.wish.like.name}", ${this.wish.like.crib.assemblies.length}` },
  ]);
  protected readonly materials = computed(() => toBeChosen(this.house.materials()));
  protected readonly machines = computed(() => toBeChosen(this.house.machines()));
  protected readonly posts: readonly Choice[] = [
    { value: NONE, label: 'choose' },
    ...POSTS.map((p) => ({ value: p.id, label: p.name })),
  ];
  protected readonly beginnings: readonly Choice[] = [
    { value: NONE, label: 'none yet' },
    { value: 'like', label: `as in "${this.wish.like.name}"` },
  ];

  protected readonly made = computed((): NewJob | undefined => {
    const material = this.house.materials().find((m) => m.name === this.material());
    const machine = this.house.machines().find((m) => m.name === this.machine());
    const { steps } = this.wish.like;
    const crib = this.cutters() === SHOP && this.steps() === NONE ? this.house.crib() : this.wish.like.crib;
    const post = this.post();
    if (!material || !machine || post === NONE || !this.part()) return undefined;
    const beginning = { name: this.name(), material, machine, post, crib, steps: this.steps() === NONE ? [] : steps };
    return { files: this.files(), beginning };
  });

  /** There is one part: when another file becomes it, the one before is held to be a fixture. */
  protected say(index: number, role: BodyRole): void {
    this.files.update((all) =>
      all.map((f, n) =>
        n === index ? { ...f, role } : role === 'part' && f.role === 'part' ? { ...f, role: 'fixture' } : f,
      ),
    );
  }

  protected takeSteps(choice: string): void {
    this.steps.set(choice);
    this.cutters.set(choice === NONE ? SHOP : 'like');
  }

  protected readonly rename = (name: string): string | undefined => {
    if (name.trim() === '' || name.length > 80) return 'A name of 1 to 80 characters.';
    this.typed.set(name.trim());
    return undefined;
  };

  protected begin(): void {
    const made = this.made();
    if (made) this.dialog.close(made);
  }
}

function rolesFor(files: readonly File[]): RoledFile[] {
  const largest = Math.max(...files.map((f) => f.size));
  const part = files.findIndex((f) => f.size === largest);
  return files.map((file, n) => ({ file, role: n === part ? 'part' : 'fixture' }));
}

/** Names to choose from, none of them chosen yet. */
function toBeChosen(all: readonly { readonly name: string }[]): readonly Choice[] {
  return [{ value: NONE, label: 'choose' }, ...all.map(({ name }) => ({ value: name, label: name }))];
}
