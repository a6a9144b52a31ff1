import { ChangeDetectionStrategy, Component, inject, Injectable } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialog, MatDialogModule } from '@angular/material/dialog';
import { firstValueFrom } from 'rxjs';

/** A question with its answers; the first one is what a person most likely wants. */
export interface Question {
  readonly title: string;
  readonly text: string;
  readonly answers: readonly { readonly id: string; readonly label: string }[];
}

@Component({
  selector: 'esq-question',
  imports: [MatDialogModule, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 mat-dialog-title>{{ question.title }}</h2>
    <mat-dialog-content>
      <p>{{ question.text }}</p>
    </mat-dialog-content>
    <mat-dialog-actions>
      @for (answer of question.answers; track answer.id; let first = $first) {
        <button
          [matButton]="first ? 'filled' : 'outlined'"
          [mat-dialog-close]="answer.id"
          [attr.cdkFocusInitial]="first ? '' : null"
        >
          {{ answer.label }}
        </button>
      }
      <button matButton [mat-dialog-close]="undefined">Cancel</button>
    </mat-dialog-actions>
  `,
})
class QuestionDialog {
  protected readonly question = inject<Question>(MAT_DIALOG_DATA);
}

/** Asks a person who must decide before anything goes on. */
@Injectable({ providedIn: 'root' })
export class Ask {
  private readonly dialog = inject(MatDialog);

  /** The id of the answer that was chosen; undefined when the question was left. */
  async for(question: Question): Promise<string | undefined> {
    const dialog = this.dialog.open<QuestionDialog, Question, string>(QuestionDialog, {
      data: question,
      width: '460px',
    });
    return firstValueFrom(dialog.afterClosed());
  }
}
