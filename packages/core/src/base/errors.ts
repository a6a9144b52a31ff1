/** What kind of thing went wrong; the interface decides by it where to show the message. */
export type ErrorCode =
  | 'file-unreadable'
  | 'file-kind'
  | 'file-truncated'
  | 'mesh-invalid'
  | 'job-invalid'
  | 'value-invalid'
  | 'cutter-invalid'
  | 'step-impossible'
  | 'post-invalid'
  | 'program-invalid'
  | 'memory'
  | 'cancelled';

/**
 * An error made for a person: `message` is a whole sentence that says what is wrong and, where it can be known, how to
 * mend it; `place` names the field, line or byte where it can be mended.
 */
export class EsquisseError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly place?: string,
  ) {
    super(message);
    this.name = 'EsquisseError';
  }
}

/** Text for a person out of anything thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
