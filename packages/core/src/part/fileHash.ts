import { Fingerprint } from '../base/fingerprint';

/** Tells what a part's file holds from what any other does: its bytes, and by its ending how they are read. */
export function fileHash(fileName: string, bytes: Uint8Array): string {
  const ending = fileName.split('.').pop()!.toLowerCase();
  return `${ending}-${bytes.length}-${new Fingerprint().add(bytes).toString()}`;
}
