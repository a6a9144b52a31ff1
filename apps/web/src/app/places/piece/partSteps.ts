import { inject, Injectable } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { Router } from '@angular/router';
import { blockBox, type Hole, type MilledPart, type ProposedStep } from '@esquisse/core';
import { Engine } from '../../engine/engine';
import { withProposedSteps } from '../../state/edit';
import { Editor } from '../../state/editor';
import { PartStepsDialog, type PartStepsAsk } from './partStepsDialog';
import { PieceLook } from './pieceLook';

/** Proposes steps for the part, or for some of its holes; those that are taken stand behind all others of the plan. */
@Injectable({ providedIn: 'root' })
export class PartSteps {
  private readonly dialogs = inject(MatDialog);
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  private readonly look = inject(PieceLook);
  private readonly router = inject(Router);

  /** For all that was found of the part. */
  forPart(): void {
    const survey = this.look.survey();
    const job = this.editor.job();
    const boxes = this.engine.piece()?.boxes;
    if (!survey || !job || !boxes) return;
    const { maxZ, minZ } = boxes.part;
    const above = blockBox(job, boxes).maxZ - maxZ;
    this.propose(survey.holes, { survey, above, underside: minZ - this.look.zero()[2] });
  }

  forHoles(holes: readonly Hole[]): void {
    if (holes.length > 0) this.propose(holes);
  }

  private propose(holes: readonly Hole[], part?: MilledPart): void {
    const crib = this.editor.job()?.crib;
    if (!crib) return;
    this.dialogs
      .open<PartStepsDialog, PartStepsAsk, readonly ProposedStep[]>(PartStepsDialog, {
        data: { holes, crib, ...(part && { part }) },
        width: '680px',
        maxWidth: '95vw',
      })
      .afterClosed()
      .subscribe((steps) => {
        const job = this.editor.job();
        if (!steps || !job) return;
        const { firstId } = withProposedSteps(job, steps);
        if (this.editor.make('piece', (now) => withProposedSteps(now, steps).job, firstId))
          void this.router.navigateByUrl('/workplan');
      });
  }
}
