import { describe, it } from 'vitest';
import { lengthsTold } from '../packages/core/test/expected';
import { dome, sole } from '../packages/core/test/grounds';

describe('what a finishing step will come to', () => {
  it.each([
    ['the half of a sole', sole],
    ['a half ball', dome],
  ])('over %s its length is told within 10 %% and 20 mm, before it is planned', (_, soup) => lengthsTold(soup));
});
