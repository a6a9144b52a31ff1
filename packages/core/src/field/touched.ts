import type { Contact } from '../tool/drop';

/** A place of the part and its unit normal. */
export type Touched = Pick<Contact, 'x' | 'y' | 'z' | 'nx' | 'ny' | 'nz'>;
