import { errorFromWire, errorToWire, type WireError } from '@esquisse/core';
import { type TransferHandler, transferHandlers } from 'comlink';

/** What comlink sends in place of a thrown value. */
interface Thrown {
  value: unknown;
}

/**
 * Lets errors cross between threads with their code, place and step. Called once in every thread that talks to another.
 */
export function keepErrorsWhole(): void {
  const plain = transferHandlers.get('throw');
  if (!plain) throw new Error('The channel between threads does not carry errors.');
  const whole: TransferHandler<Thrown, WireError> = {
    canHandle: (value): value is Thrown => plain.canHandle(value),
    serialize: ({ value }) => [errorToWire(value), []],
    deserialize: (sent) => {
      throw errorFromWire(sent);
    },
  };
  transferHandlers.set('throw', whole);
}
