/// <reference lib="webworker" />
import { EsquisseError, type ReadMesh, readPart, type LengthUnit } from '@esquisse/core';
import { expose, transfer } from 'comlink';
import { holdLife } from './alive';
import { keepErrorsWhole } from './wire';

declare const self: DedicatedWorkerGlobalScope;

const api = {
  /** Reads a mesh file; a reading that is called off ends with this worker. */
  async read(fileName: string, bytes: Uint8Array, unit: LengthUnit): Promise<ReadMesh> {
    const read = await readPart(fileName, bytes, unit, () =>
      Promise.reject(new EsquisseError('file-kind', 'STEP files have a reader of their own.')),
    );
    const { positions, indices, faceOf } = read.mesh;
    return transfer(read, [positions.buffer, indices.buffer, faceOf.buffer]);
  },
};
export type ReaderApi = typeof api;

keepErrorsWhole();
// the page hands over one end of a channel to the planner
self.onmessage = (event: MessageEvent<{ port: MessagePort }>) => expose(api, event.data.port);
holdLife(self);
