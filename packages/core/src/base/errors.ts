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
  | 'worker-lost'
  | 'storage'
  | 'cancelled';

/**
 * An error made for a person: `message` is a whole sentence that says what is wrong and, where it can be known, how to
 * mend it; `place` names the field, line or byte where it can be mended, `stepId` the step that it is about.
 */
export class EsquisseError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly place?: string,
    readonly stepId?: string,
  ) {
    super(message);
    this.name = 'EsquisseError';
  }
}

/** Text for a person out of anything thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/** An error as it crosses from one thread to another, where classes are lost. */
export interface WireError {
  readonly message: string;
  readonly code?: ErrorCode | undefined;
  readonly place?: string | undefined;
  readonly stepId?: string | undefined;
  readonly stack?: string | undefined;
}

export function errorToWire(error: unknown): WireError {
  if (!(error instanceof Error)) return { message: String(error) };
  const { message, stack, code, place, stepId } = error as Error & Partial<WireError>;
  return { message, code, place, stepId, stack };
}

export function errorFromWire({ message, code, place, stepId, stack }: WireError): Error {
  const error = code ? new EsquisseError(code, message, place, stepId) : new Error(message);
  if (stack) error.stack = stack;
  return error;
}

/** Whether work ended because it was called off. */
export function isCancelled(error: unknown): boolean {
  return error instanceof EsquisseError && error.code === 'cancelled';
}
