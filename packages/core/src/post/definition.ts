import { z } from 'zod';
import { EsquisseError } from '../base/errors';
import wordAddress from './definitions/word-address.json';

const coolantWord = z
  .string()
  .regex(/^M\d{1,3}$/)
  .nullable()
  .default(null);

const cycleWord = z
  .string()
  .regex(/^G\d{1,3}$/)
  .nullable()
  .default(null);

const wearWord = z.string().regex(/^G\d{1,3}$/);

const lines = z.array(z.string().max(200)).max(40);

/** Names that may stand in braces in a line of a post definition. */
export const POST_SYMBOLS = [
  'program',
  'step',
  'tool',
  'number',
  'lengthOffset',
  'offset',
  'coolant',
  'programNumber',
  'note',
  'n',
  'x',
  'y',
  'z',
] as const;
export type PostSymbol = (typeof POST_SYMBOLS)[number];

function unknownSymbols(line: string): string[] {
  return [...line.matchAll(/\{([^}]*)\}/g)]
    .map((m) => m[1]!)
    .filter((name) => !(POST_SYMBOLS as readonly string[]).includes(name));
}

/** How a program is written for one kind of control. */
export const postSchema = z
  .object({
    id: z.string().min(1),
    name: z.string().min(1),
    /** File ending without the point. */
    extension: z.string().regex(/^[a-z0-9]{1,6}$/i),
    /** Decimals of coordinates (mm) and of feeds (mm/min). */
    decimals: z.int().min(2).max(5),
    feedDecimals: z.int().min(0).max(3),
    /** Step of the N words; 0 for none. */
    numberedBy: z.int().min(0).max(1000),
    /** The word that switches each kind of coolant on; null where the control has none: it is switched by hand. */
    coolant: z.object({ flood: coolantWord, air: coolantWord, mist: coolantWord, through: coolantWord }),
    /** The word of each cycle for holes; null where the control has none: its moves are written. */
    cycles: z
      .object({ drill: cycleWord, peck: cycleWord, break: cycleWord, ream: cycleWord, tap: cycleWord })
      .prefault({}),
    /** The words by which the control compensates wear, and ends that; null where it cannot. */
    wear: z.object({ left: wearWord, right: wearWord, off: wearWord }).nullable().default(null),
    comment: z.tuple([z.string().min(1).max(3), z.string().max(3)]),
    start: lines,
    /** How the machine comes to where cutters are changed: before every change, the first one too. */
    toolChange: lines,
    toolStart: lines,
    /** Instead of `toolStart` when the cutter stays in the spindle. */
    sameTool: lines,
    toolEnd: lines,
    end: lines,
  })
  .superRefine((post, context) => {
    for (const part of ['start', 'toolChange', 'toolStart', 'sameTool', 'toolEnd', 'end'] as const)
      post[part].forEach((line, i) => {
        for (const name of unknownSymbols(line))
          context.addIssue({
            code: 'custom',
            path: [part, i],
            message: `{${name}} means nothing here; there are ${POST_SYMBOLS.join(', ')}.`,
          });
      });
  });
export type PostDefinition = z.infer<typeof postSchema>;

/** @throws EsquisseError `post-invalid` naming the line and what is wrong with it */
export function parsePost(json: unknown): PostDefinition {
  const result = postSchema.safeParse(json);
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  throw new EsquisseError(
    'post-invalid',
    `Post definition: ${issue.path.join('.')}: ${issue.message}`,
    issue.path.join('.'),
  );
}

/** All post definitions. A new one is a file and a line here. */
export const POSTS: readonly PostDefinition[] = [parsePost(wordAddress)];

/** @throws EsquisseError `post-invalid` when there is none of that name */
export function postOf(id: string): PostDefinition {
  const post = POSTS.find((p) => p.id === id);
  if (!post)
    throw new EsquisseError(
      'post-invalid',
      `There is no post definition "${id}"; there are ${POSTS.map((p) => p.id).join(', ')}.`,
      'setup.post',
    );
  return post;
}
