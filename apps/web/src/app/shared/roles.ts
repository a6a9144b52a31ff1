import { BODY_ROLES, type BodyRole } from '@esquisse/core';

/** What a body or a file can be, in words. */
export const ROLE_WORDS: Record<BodyRole, string> = {
  part: 'the part',
  blank: 'the blank',
  fixture: 'a fixture',
  ignored: 'left out',
};

/** The same to choose from. */
export const ROLE_CHOICES = BODY_ROLES.map((value) => ({ value, label: ROLE_WORDS[value] }));
