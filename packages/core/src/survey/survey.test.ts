import { describe, expect, it } from 'vitest';
import { meshOf, sheet } from '../../test/shapes';
import type { Cancel } from '../base/cancel';
import { EsquisseError } from '../base/errors';
import { contactMesh } from '../geometry/contactMesh';
import { surfaceOf } from './surface';
import { surveyOf } from './survey';

describe('looking a part over', () => {
  it('ends at the next place when it is called off, and asks often', () => {
    const mesh = meshOf(sheet([-20, -20, 20, 20], 1, -20, (x, y) => -8 * Math.exp(-(x * x + y * y) / 60)));
    const look = (cancel?: Cancel) => surveyOf(surfaceOf(mesh), contactMesh(mesh), cancel);
    let asked = 0;
    const whole = look({ check: () => void asked++ });
    expect(whole).toEqual(look());
    expect(asked).toBeGreaterThan(300);
    let left = 10;
    const callOff = {
      check: () => {
        if (left-- === 0) throw new EsquisseError('cancelled', 'Called off.');
      },
    };
    expect(() => look(callOff)).toThrow('Called off.');
    expect(left).toBe(-1);
  });
});
