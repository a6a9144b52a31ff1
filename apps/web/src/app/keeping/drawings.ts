import { computed, inject, Injectable, signal } from '@angular/core';
import {
  blockBox,
  boxOfPositions,
  EsquisseError,
  type Job,
  outlineBlank,
  type Point2,
  type StepLimit,
} from '@esquisse/core';
import { Engine } from '../engine/engine';
import { FileReading } from '../engine/fileReading';
import { Editor } from '../state/editor';
import { Guard } from '../state/guard';

/** Outlines of drawings, taken into the open job. */
@Injectable({ providedIn: 'root' })
export class Drawings {
  private readonly engine = inject(Engine);
  private readonly reader = inject(FileReading);
  private readonly editor = inject(Editor);
  private readonly guard = inject(Guard);
  private readonly lastRead = signal<{ readonly jobId: string; readonly notes: readonly string[] } | undefined>(
    undefined,
  );
  /** What is to be told of the drawing that was read last for the open job. */
  readonly notes = computed((): readonly string[] => {
    const last = this.lastRead();
    return last && last.jobId === this.editor.job()?.id ? last.notes : [];
  });

  /** Makes the largest outline of a drawing the blank, its middle under the part's. */
  importBlank(file: File): Promise<void> {
    return this.guard.run('piece', async () => {
      const boxes = this.engine.piece()?.boxes;
      if (!boxes) throw new EsquisseError('job-invalid', 'Bring in the part first.', 'part');
      const points = await this.laidOutline(file);
      this.change((job) => ({ ...job, blank: outlineBlank(file.name, points, boxes.part, blockBox(job, boxes)) }));
    });
  }

  /** Holds a step within the outline of a drawing, whose middle is laid on the part's. */
  importLimit(file: File, stepId: string): Promise<void> {
    return this.guard.run('workplan', async () => {
      const points = await this.laidOutline(file);
      const limit: StepLimit = { kind: 'within', source: file.name, points, side: 'on', offset: 0 };
      this.change((job) => ({
        ...job,
        steps: job.steps.map((s) => (s.id === stepId ? { ...s, limits: [...s.limits, limit] } : s)),
      }));
    });
  }

  private change(change: (job: Job) => Job): void {
    const problem = this.editor.change(change);
    if (problem) throw new EsquisseError('job-invalid', problem);
  }

  /** The largest outline of a drawing, its middle laid on the part's. */
  private async laidOutline(file: File): Promise<Point2[]> {
    const begun = this.editor.job()?.id;
    const { outlines, notes } = await this.reader.outlines(file);
    if (this.editor.job()?.id !== begun)
      throw new EsquisseError('job-invalid', `Another job was opened: "${file.name}" was not taken in.`);
    const part = this.engine.piece()?.boxes.part;
    if (!part) throw new EsquisseError('job-invalid', 'Bring in the part first.', 'part');
    const { points } = outlines[0];
    const box = boxOfPositions(points.flatMap(([x, y]) => [x, y, 0]));
    const dx = (part.minX + part.maxX - box.minX - box.maxX) / 2;
    const dy = (part.minY + part.maxY - box.minY - box.maxY) / 2;
    if (begun !== undefined)
      this.lastRead.set({ jobId: begun, notes: notes.length > 0 ? [`${file.name}:`, ...notes] : [] });
    return points.map(([x, y]): Point2 => [x + dx, y + dy]);
  }
}
