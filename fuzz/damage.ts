import fc from 'fast-check';
import { strFromU8, strToU8 } from 'fflate';
import { type FuzzedFormat, withEntry } from './formats';

/** Something that happens to a file. Places are shares of its length, so that a smaller file of the same damage is one too. */
export type Damage =
  | { readonly kind: 'flip'; readonly at: number; readonly bit: number }
  | { readonly kind: 'write'; readonly at: number; readonly value: number }
  | { readonly kind: 'cut'; readonly at: number }
  | { readonly kind: 'drop'; readonly at: number; readonly length: number }
  | { readonly kind: 'double'; readonly at: number; readonly length: number; readonly times: number }
  | { readonly kind: 'word'; readonly at: number; readonly word: string }
  | { readonly kind: 'number'; readonly at: number; readonly word: string }
  | { readonly kind: 'line-drop'; readonly at: number }
  | { readonly kind: 'line-double'; readonly at: number; readonly times: number }
  | { readonly kind: 'line-swap'; readonly at: number; readonly to: number }
  | { readonly kind: 'entry'; readonly which: number; readonly inner: Damage };

/** Words that break readers. */
const WORDS = [
  '1e17',
  '-1e17',
  '1e400',
  '1e-400',
  'NaN',
  'Infinity',
  '0x10',
  '-1',
  '0',
  '',
  '1.5',
  '4294967296',
  '99999999999999999999',
  '1,5',
  'constructor',
  '__proto__',
  '"',
  '<g>',
  '<!--',
  'ENDSEC',
  'INSERT',
  '%',
  '\u0000',
  'ä',
];

const share = fc.double({ min: 0, max: 1, noNaN: true, maxExcluded: true });
const length = fc.oneof({ weight: 4, arbitrary: fc.integer({ min: 1, max: 16 }) }, fc.integer({ min: 17, max: 4000 }));
const word = fc.constantFrom(...WORDS);

/** Damage to the bytes of any file. */
const bytesDamage: fc.Arbitrary<Damage> = fc.oneof(
  fc.record({ kind: fc.constant('flip' as const), at: share, bit: fc.integer({ min: 0, max: 7 }) }),
  fc.record({
    kind: fc.constant('write' as const),
    at: share,
    value: fc.constantFrom(0, 1, 9, 32, 48, 57, 127, 128, 255),
  }),
  fc.record({ kind: fc.constant('cut' as const), at: share }),
  fc.record({ kind: fc.constant('drop' as const), at: share, length }),
  fc.record({ kind: fc.constant('double' as const), at: share, length, times: fc.constantFrom(1, 2, 1000) }),
);
/** Damage to words and lines of a text. */
const textDamage: fc.Arbitrary<Damage> = fc.oneof(
  fc.record({ kind: fc.constant('word' as const), at: share, word }),
  fc.record({ kind: fc.constant('number' as const), at: share, word }),
  fc.record({ kind: fc.constant('line-drop' as const), at: share }),
  fc.record({ kind: fc.constant('line-double' as const), at: share, times: fc.constantFrom(1, 2, 5000) }),
  fc.record({ kind: fc.constant('line-swap' as const), at: share, to: share }),
);

/** A few damages to a file of a format, one after another. */
export function damagesOf({ isText, isZip }: FuzzedFormat): fc.Arbitrary<Damage[]> {
  const one = isText ? fc.oneof(bytesDamage, { weight: 3, arbitrary: textDamage }) : bytesDamage;
  const entry = fc.record({
    kind: fc.constant('entry' as const),
    which: fc.nat(3),
    inner: fc.oneof(bytesDamage, textDamage),
  });
  return fc.array(isZip ? fc.oneof(one, { weight: 2, arbitrary: entry }) : one, { minLength: 1, maxLength: 3 });
}

/** A file of more bytes takes long because it is large, not because it is damaged; those have tests of their own. */
const LARGEST_BYTES = 16e6;

/** The file after its damage. What would make it very large is left out. */
export function damaged(bytes: Uint8Array, damages: readonly Damage[]): Uint8Array {
  return damages.reduce<Uint8Array>((now, damage) => {
    const next = once(now, damage);
    return next.length > LARGEST_BYTES ? now : next;
  }, bytes);
}

function once(bytes: Uint8Array, damage: Damage): Uint8Array {
  if (bytes.length === 0) return bytes;
  const at = 'at' in damage ? Math.floor(damage.at * bytes.length) : 0;
  switch (damage.kind) {
    case 'flip':
    case 'write': {
      const out = bytes.slice();
      out[at] = damage.kind === 'flip' ? out[at]! ^ (1 << damage.bit) : damage.value;
      return out;
    }
    case 'cut':
      return bytes.slice(0, at);
    case 'drop':
      return joined(bytes.subarray(0, at), bytes.subarray(at + damage.length));
    case 'double': {
      const piece = bytes.subarray(at, at + damage.length);
      return joined(bytes.subarray(0, at), ...Array.from({ length: damage.times }, () => piece), bytes.subarray(at));
    }
    case 'entry':
      try {
        return withEntry(bytes, damage.which, (content) => once(content, damage.inner));
      } catch {
        // damage before it has made it no zip file any more
        return bytes;
      }
    default:
      return textOnce(bytes, damage, at);
  }
}

type TextDamage = Extract<Damage, { kind: 'word' | 'number' | 'line-drop' | 'line-double' | 'line-swap' }>;

function textOnce(bytes: Uint8Array, damage: TextDamage, at: number): Uint8Array {
  const text = strFromU8(bytes, true);
  if (damage.kind === 'word' || damage.kind === 'number') {
    const pattern = damage.kind === 'word' ? /[^\s,;()<>"=]+/g : /[-+]?\d+\.?\d*(?:[eE][-+]?\d+)?/g;
    pattern.lastIndex = at;
    const found = pattern.exec(text);
    return found
      ? strToU8(text.slice(0, found.index) + damage.word + text.slice(found.index + found[0].length), true)
      : bytes;
  }
  const lines = text.split('\n');
  const line = Math.floor(damage.at * lines.length);
  if (damage.kind === 'line-drop') lines.splice(line, 1);
  else if (damage.kind === 'line-double')
    lines.splice(line, 0, ...Array.from({ length: damage.times }, () => lines[line]!));
  else {
    const other = Math.floor(damage.to * lines.length);
    [lines[line], lines[other]] = [lines[other]!, lines[line]!];
  }
  return strToU8(lines.join('\n'), true);
}

function joined(...parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
