import type { CancelFlag } from '../base/cancel';
import { EsquisseError } from '../base/errors';

/**
 * A piece of heavy work that any worker can do: a function of plain data on shared memory, known by its name in every
 * thread. Defined beside the code that it runs, once, with {@link defineTask}.
 */
export interface Task<I, O> {
  readonly name: string;
  run(input: I, cancel: CancelFlag): O;
}

/** A task whose input and output are not looked at. */
export type AnyTask = Task<unknown, unknown>;

export function defineTask<I, O>(name: string, run: (input: I, cancel: CancelFlag) => O): Task<I, O> {
  return { name, run };
}

/** Tasks by their names: what a worker can do. @throws Error when two tasks have the same name */
export function taskTable(tasks: Iterable<AnyTask>): ReadonlyMap<string, AnyTask> {
  const table = new Map<string, AnyTask>();
  for (const task of tasks) {
    const other = table.get(task.name);
    if (other && other !== task) throw new Error(`Two tasks are called "${task.name}".`);
    table.set(task.name, task);
  }
  return table;
}

/** The task of a name. @throws EsquisseError `job-invalid` when this thread runs another build that does not know it */
export function taskNamed(table: ReadonlyMap<string, AnyTask>, name: string): AnyTask {
  const task = table.get(name);
  if (!task)
    throw new EsquisseError('job-invalid', `This worker does not know the work "${name}": load the page again.`);
  return task;
}
