import { parentPort } from 'node:worker_threads';
import { EsquisseError, messageOf } from '../packages/core/src/base/errors';
import { FORMATS, type Reading } from './formats';

/** How a reading ended. */
export type Outcome =
  | { readonly kind: 'read'; readonly reading: Reading }
  | { readonly kind: 'refused'; readonly message: string; readonly place?: string | undefined }
  | { readonly kind: 'untyped'; readonly message: string };

/** Reads a file; whatever is thrown becomes its outcome. */
export async function outcomeOf(format: string, bytes: Uint8Array): Promise<Outcome> {
  try {
    return { kind: 'read', reading: await FORMATS.find((f) => f.name === format)!.read(bytes) };
  } catch (error) {
    if (error instanceof EsquisseError) return { kind: 'refused', message: error.message, place: error.place };
    return { kind: 'untyped', message: messageOf(error) };
  }
}

// a thread of its own: whoever started it ends it when it takes too long
const port = parentPort;
port?.on('message', ({ id, format, bytes }: { id: number; format: string; bytes: Uint8Array }) => {
  void outcomeOf(format, bytes).then((outcome) => port.postMessage({ id, outcome }));
});
port?.postMessage('ready');
