import { z } from 'zod';
import { cutterTitle, type Tool } from './library';

/** An assembly that stands in a magazine. */
export const loadedSchema = z.object({
  /** Where it stands. */
  place: z.int().min(1).max(9999),
  /** Number by which the control calls it: T word. */
  number: z.int().min(1).max(9999),
  /** What it is: see {@link madeOf}. */
  made: z.string().max(400),
});
export type Loaded = z.infer<typeof loadedSchema>;

/** What stands in the magazine of a machine. Each place holds one tool, each number is one tool. */
export const magazineSchema = z
  .object({
    /** Number of its places. */
    places: z.int().min(1).max(500).default(24),
    loaded: z.array(loadedSchema).max(500).default([]),
  })
  .refine(({ loaded }) => new Set(loaded.map((l) => l.place)).size === loaded.length, {
    path: ['loaded'],
    message: 'Two tools stand at one place.',
  })
  .refine(({ loaded }) => new Set(loaded.map((l) => l.number)).size === loaded.length, {
    path: ['loaded'],
    message: 'Two tools have one number.',
  })
  .refine(({ loaded, places }) => loaded.every((l) => l.place <= places), {
    path: ['places'],
    message: 'A tool stands at a place that the magazine would not have.',
  });
export type Magazine = z.infer<typeof magazineSchema>;

/** Magazines by the names of their machines. */
export const magazinesSchema = z.record(z.string().max(80), magazineSchema);

/** What an assembly is, by which one in a magazine is told from another: cutter with its reach, stick-out, and what holds it. */
export function madeOf({ assembly, cutter, extensions, holder }: Tool): string {
  const held = [...extensions, holder].map((c) => c.name).join(' + ');
  const title = cutterTitle(cutter);
  const name = cutter.name.toLowerCase() === title ? '' : `, "${cutter.name}"`;
  const neck = cutter.DN === null ? '' : `, neck ${cutter.DN} to ${cutter.LN ?? cutter.APMX} mm`;
  const sizes = `${cutter.ZEFP} edges ${cutter.APMX} mm long${neck}, shank ${cutter.DMM} mm`;
  return `${title}${name}, ${sizes}, ${assembly.stickOut} mm out of ${held}`.slice(0, 400);
}

/** What is to be changed at a machine so that a job can run. */
export interface MagazineChanges {
  /** What the job needs and finds in its place. */
  readonly ready: readonly Loaded[];
  /** What makes room, or stands under a number that is another tool in this job. */
  readonly out: readonly (Loaded & { readonly isOther: boolean })[];
  readonly in: readonly Loaded[];
  /** Tools that find no place at all: the job needs more than the magazine holds. */
  readonly lacking: readonly Pick<Loaded, 'number' | 'made'>[];
}

/**
 * The fewest changes after which all tools of a job stand in a magazine: what is there stays, free places are filled first, and
 * only as many others are taken out as places are wanted.
 */
export function magazineChanges({ places, loaded }: Magazine, tools: readonly Tool[]): MagazineChanges {
  const needed = new Map(tools.map((tool) => [tool.assembly.number, madeOf(tool)]));
  const ready = loaded.filter((l) => needed.get(l.number) === l.made);
  const others = loaded.filter((l) => !ready.includes(l));
  const wrong = others.filter((l) => needed.has(l.number));
  const wanted = [...needed].filter(([number]) => !ready.some((l) => l.number === number)).sort(([a], [b]) => a - b);
  const kept = new Set(loaded.filter((l) => !wrong.includes(l)).map((l) => l.place));
  const free = Array.from({ length: places }, (_, k) => k + 1).filter((place) => !kept.has(place));
  // of those that this job does not need the ones at the end: the first places are those of daily use (common practice)
  const spare = others.filter((l) => !wrong.includes(l)).sort((a, b) => b.place - a.place);
  const room = spare.slice(0, Math.max(0, wanted.length - free.length));
  const order = [...free, ...room.map((l) => l.place)];
  const put = wanted.map(([number, made], k) => ({ place: order[k] ?? 0, number, made }));
  return {
    ready,
    out: [...wrong.map((l) => ({ ...l, isOther: true })), ...room.map((l) => ({ ...l, isOther: false }))],
    in: put.filter(({ place }) => place > 0),
    lacking: put.filter(({ place }) => place === 0).map(({ number, made }) => ({ number, made })),
  };
}

/** A run with one tool: its number, seconds that it takes, and those for changing it in. */
export interface ToolRun {
  readonly number: number;
  readonly seconds: number;
  readonly change: number;
}

/**
 * Stretches of a program in which nobody has to come to the machine: a tool that finds no place is put in and taken out by hand.
 *
 * @param byHand numbers of the tools that find no place
 * @returns the index of the run with which each begins, and its seconds
 */
export function unattended(
  runs: readonly ToolRun[],
  byHand: ReadonlySet<number>,
): { first: number; seconds: number }[] {
  const stretches: { first: number; seconds: number }[] = [];
  runs.forEach(({ number, seconds, change }, k) => {
    const before = runs[k - 1]?.number;
    const isCalled = before !== number && (byHand.has(number) || (before !== undefined && byHand.has(before)));
    const now = stretches.at(-1);
    if (!now || isCalled) stretches.push({ first: k, seconds });
    else now.seconds += change + seconds;
  });
  return stretches;
}

/** A magazine after changes were made at the machine. */
export function changedMagazine(magazine: Magazine, changes: Pick<MagazineChanges, 'in' | 'out'>): Magazine {
  const out = new Set(changes.out.map((l) => l.place));
  const loaded = [...magazine.loaded.filter((l) => !out.has(l.place)), ...changes.in];
  return { ...magazine, loaded: loaded.sort((a, b) => a.place - b.place) };
}
