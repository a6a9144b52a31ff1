import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readStep, type StepReader } from './step';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
/** A reader that gives a triangle for whatever reaches it. */
const triangle: StepReader = () =>
  Promise.resolve({
    success: true,
    meshes: [
      {
        attributes: { position: { array: [0, 0, 0, 1, 0, 0, 0, 1, 0] } },
        index: { array: [0, 1, 2] },
        brep_faces: [{ first: 0, last: 0 }],
      },
    ],
  });
const reached = async (text: string): Promise<string> => {
  try {
    await readStep(bytesOf(text), triangle);
    return 'read';
  } catch (error) {
    return (error as Error).message;
  }
};

describe('what a STEP file is held to before it is read (ISO 10303-21)', () => {
  const whole = readFileSync('demo/parts/corner-check.step', 'latin1');
  const statements = whole.match(/^#\d+\s*=[^;]*;/gm)!;

  it('each name stands for one thing: a statement that comes twice is told by its name', async () => {
    expect(statements.length).toBeGreaterThan(100);
    expect(await reached(whole)).toBe('read');
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...statements), fc.constantFrom(...statements), async (twice, after) => {
        const damaged = whole.replace(`\n${after}`, `\n${after}\n${twice}`);
        expect(await reached(damaged)).toContain(`defines ${/^#\d+/.exec(twice)![0]} twice`);
      }),
      { numRuns: 40 },
    );
  });

  it('names in texts, in comments and in what refers to them are no definitions', async () => {
    const body =
      "ISO-10303-21;\nDATA;\n#1 = A('; #1 = B();',#2);\n/* ; #2 = C(); * / */#2=D(#1,'it''s; #2=');\nENDSEC;\n";
    expect(await reached(`${body}END-ISO-10303-21;\n`)).toBe('read');
    expect(await reached(`${body}#2 =E();END-ISO-10303-21;\n`)).toContain('defines #2 twice');
  });

  it('it begins with its one first line, white space and comments aside', async () => {
    const rest = whole.slice('ISO-10303-21;'.length);
    for (const first of ['ISO-10303-21;', '\n ISO-10303-21 ;', '/* from here */ISO-10303-21/* x */;'])
      expect(await reached(first + rest)).toBe('read');
    for (const first of ['ISO-10303-21ISO-10303-21;', 'x ISO-10303-21;', 'ISO-10303-22;', ''])
      expect(await reached(first + rest)).toContain('not a STEP file');
  });
});
