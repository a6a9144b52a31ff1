import { strFromU8 } from 'fflate';
import { EsquisseError } from '../base/errors';

/** Text files larger than this are refused: as text they need several times their size, and a tab has no room for that. */
export const MOST_TEXT_BYTES = 256 * 2 ** 20;
/** More triangles than this are refused: they need more memory than a tab has. */
export const MOST_TRIANGLES = 20_000_000;

/** Characters of decimal numbers: with them alone the language's own reading of a number is a strict one. */
const DECIMAL = /^[\d.eE+-]+$/;

/** A decimal number as files of meshes write it, NaN for all else: hexadecimal numbers, empty words, "Infinity". */
export function numberOf(word: string | undefined): number {
  return word !== undefined && DECIMAL.test(word) ? Number(word) : NaN;
}

/** Files larger than this are refused: as many triangles as are read fill no more. */
const MOST_FILE_BYTES = 84 + 50 * MOST_TRIANGLES;

/** @throws EsquisseError `memory` when a text is too large to be read */
export function refuseLargeText(size: number, what: string): void {
  if (size > MOST_TEXT_BYTES)
    throw new EsquisseError(
      'memory',
      `${what} is a text of ${inMb(size)} MB; texts of up to ${inMb(MOST_TEXT_BYTES)} MB are read. Save it as a binary file, or coarser.`,
      `byte ${size}`,
    );
}

/** @throws EsquisseError `memory` when a file of any kind is too large to be read */
export function refuseLargeFile(size: number, what: string): void {
  if (size > MOST_FILE_BYTES)
    throw new EsquisseError(
      'memory',
      `${what} has ${inMb(size)} MB; files of up to ${inMb(MOST_FILE_BYTES)} MB are read. Save it coarser.`,
      `byte ${size}`,
    );
}

const inMb = (bytes: number): number => Math.round(bytes / 2 ** 20);

/** The bytes of a text file, one a character. @throws EsquisseError `memory` when it is too large */
export function textOf(bytes: Uint8Array, what: string): string {
  refuseLargeText(bytes.length, `The ${what} file`);
  return strFromU8(bytes, true);
}

/** The words of a line, which blanks of any kind part. */
export function wordsOf(line: string): string[] {
  const words: string[] = [];
  let begin = -1;
  for (let k = 0; k <= line.length; k++) {
    const isBlank = k === line.length || line.charCodeAt(k) <= 32;
    if (!isBlank && begin < 0) begin = k;
    else if (isBlank && begin >= 0) {
      words.push(line.slice(begin, k));
      begin = -1;
    }
  }
  return words;
}

/** Goes through the lines of a text, counted from 1, without a list of them. */
export function eachLine(text: string, see: (line: string, number: number, isLast: boolean) => void): void {
  let number = 0;
  for (let at = 0; at <= text.length;) {
    const found = text.indexOf('\n', at);
    const end = found < 0 ? text.length : found;
    see(text.slice(at, end), ++number, found < 0);
    at = end + 1;
  }
}

/** @throws EsquisseError `memory` */
export function refuseTooMany(triangles: number, what: string, place?: string): void {
  if (triangles > MOST_TRIANGLES)
    throw new EsquisseError(
      'memory',
      `The ${what} file holds ${triangles} triangles, more than ${MOST_TRIANGLES}: save it coarser.`,
      place,
    );
}
