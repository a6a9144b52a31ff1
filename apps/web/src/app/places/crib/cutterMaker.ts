import { inject, Injectable } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { type Cutter, type CutterKind, type StepKind, type ToolShape } from '@esquisse/core';
import { withNewCutter } from '../../state/cutterEdit';
import { Editor } from '../../state/editor';
import { type CutterWish, NewCutterDialog } from './newCutterDialog';

/** What a kind of step is asked about: which kinds of cutter it takes. */
const SAMPLE: Omit<ToolShape, 'kind'> = {
  DC: 10,
  RE: 1,
  APMX: 10,
  SIG: 118,
  TP: 1,
  centreCutting: true,
  stickOut: 40,
  shank: [],
  clamping: [],
};

/** Kinds in the order in which they are wanted most. */
const LIKELY: readonly CutterKind[] = ['bull', 'ball', 'flat', 'drill'];

/** Asks for a new cutter and puts it into the crib. */
@Injectable({ providedIn: 'root' })
export class CutterMaker {
  private readonly dialogs = inject(MatDialog);
  private readonly editor = inject(Editor);

  /**
   * @param done what is changed with it: the new assembly's id is given
   * @param kind only cutters that can do such a step are offered
   */
  make(done: (id: string) => void, kind?: StepKind): void {
    const refused = (of: CutterKind): string | undefined => kind?.refuses({ ...SAMPLE, kind: of });
    const first = LIKELY.find((of) => refused(of) === undefined) ?? 'bull';
    this.dialogs
      .open<NewCutterDialog, CutterWish, Omit<Cutter, 'id'>>(NewCutterDialog, {
        data: { kind: first, refused },
        width: '420px',
      })
      .afterClosed()
      .subscribe((made) => {
        if (!made) return;
        let id = '';
        const isMade = this.editor.make('crib', (job) => {
          const next = withNewCutter(job, made);
          id = next.id;
          return next.job;
        });
        if (isMade) done(id);
      });
  }
}
