import type { ErrorStateMatcher } from '@angular/material/core';

/** A field whose value was refused shows so at once, not only when it is left. */
export const AT_ONCE: ErrorStateMatcher = { isErrorState: (control) => control?.invalid ?? false };
