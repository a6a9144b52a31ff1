/// <reference lib="webworker" />
import {
  type Bundle,
  type Crib,
  cribSchema,
  csvIntoCrib,
  EsquisseError,
  isMeasuredList,
  type LengthUnit,
  measuredIntoCrib,
  openBundle,
  type Outlines,
  packBundle,
  parseJson,
  readOutlines,
  type ReadMesh,
  readPart,
  refuseLargeText,
  type TableReport,
} from '@esquisse/core';
import { expose, transfer } from 'comlink';
import { holdLife } from './alive';
import { keepErrorsWhole } from './wire';

declare const self: DedicatedWorkerGlobalScope;

/** A crib's file as it was read: what the crib becomes, or what keeps the file from being one. */
export interface CribRead {
  readonly crib?: Crib;
  readonly report: TableReport;
}

/** Whatever is read from files, or written to large ones. A reading that is called off ends with this worker. */
const api = {
  /** A mesh file. */
  async read(fileName: string, bytes: Uint8Array, unit: LengthUnit): Promise<ReadMesh> {
    const read = await readPart(fileName, bytes, unit, () =>
      Promise.reject(new EsquisseError('file-kind', 'STEP files have a reader of their own.')),
    );
    const { positions, indices, faceOf } = read.mesh;
    return transfer(read, [positions.buffer, indices.buffer, faceOf.buffer]);
  },

  async outlines(file: File): Promise<Outlines> {
    return readOutlines(file.name, await textOf(file));
  },

  /** A whole job. */
  async job(file: File): Promise<Bundle> {
    return openBundle(new Uint8Array(await file.arrayBuffer()), file.name);
  },

  pack(bundle: Bundle): Uint8Array {
    const bytes = packBundle(bundle);
    return transfer(bytes, [bytes.buffer]);
  },

  /** A crib in place of the one before, a table whose rows are taken into it, or what a presetter measured. */
  async crib(file: File, crib: Crib): Promise<CribRead> {
    const text = await textOf(file);
    if (!file.name.toLowerCase().endsWith('.json'))
      return (isMeasuredList(text) ? measuredIntoCrib : csvIntoCrib)(text, crib, file.name);
    const read = cribSchema.safeParse(parseJson(text, file.name));
    const problems = read.error?.issues.map(({ path, message }) => cribProblem(path, message)) ?? [];
    const report = { added: 0, changed: 0, same: 0, problems, changes: [] };
    return read.success ? { crib: read.data, report } : { report };
  },

  async json(file: File): Promise<unknown> {
    return parseJson(await textOf(file), file.name);
  },
};
export type ReaderApi = typeof api;

function textOf(file: File): Promise<string> {
  refuseLargeText(file.size, `"${file.name}"`);
  return file.text();
}

/** What is wrong with a crib's file: its row, if it lies in a list, and the name of the value. */
function cribProblem(path: readonly PropertyKey[], message: string): TableReport['problems'][number] {
  const [list, index] = path;
  return {
    row: typeof index === 'number' ? index + 1 : 0,
    column: [list, ...path.slice(2)].filter((p) => p !== undefined).join(' ') || 'the file',
    message,
  };
}

keepErrorsWhole();
// the page hands over one end of a channel to the planner, and keeps one itself
self.onmessage = (event: MessageEvent<{ port: MessagePort }>) => expose(api, event.data.port);
holdLife(self);
