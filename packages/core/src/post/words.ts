import { EsquisseError } from '../base/errors';

/** A letter with its number, as it stands in a block. */
export interface Word {
  letter: string;
  value: number;
}

/** A block of a program: its words in order, and the line (from 1) that it stands on. */
export interface Block {
  line: number;
  words: Word[];
  /** A block that the control may skip ("/"). */
  optional: boolean;
}

const WORD = /([A-Za-z])\s*([+-]?(?:\d+\.?\d*|\.\d+))/y;
/** Longest text of a program that is read, characters. */
export const LONGEST_PROGRAM = 400_000_000;

/**
 * Splits word-address text into blocks (ISO 6983-1): comments in round brackets and after ";" left out, "%" and "O" lines
 * passed over, "/" noted.
 *
 * @throws EsquisseError `program-invalid` with the line of the first thing that is not a word
 */
export function readBlocks(text: string): Block[] {
  if (text.length > LONGEST_PROGRAM) throw new EsquisseError('program-invalid', 'The program is too long to be read.');
  const blocks: Block[] = [];
  let line = 0;
  for (const raw of text.split(/\r\n|\n|\r/)) {
    line++;
    const bare = withoutComments(raw, line).trim();
    if (bare === '' || bare.startsWith('%')) continue;
    const optional = bare.startsWith('/');
    const words = readWords(optional ? bare.slice(1) : bare, line).filter((w) => w.letter !== 'N' && w.letter !== 'O');
    if (words.length > 0) blocks.push({ line, words, optional });
  }
  return blocks;
}

function withoutComments(raw: string, line: number): string {
  let text = raw;
  const semicolon = text.indexOf(';');
  if (semicolon >= 0) text = text.slice(0, semicolon);
  text = text.replace(/\([^()]*\)/g, ' ');
  if (/[()]/.test(text))
    throw new EsquisseError(
      'program-invalid',
      `Line ${line}: a bracket is opened or closed on its own.`,
      `line ${line}`,
    );
  return text;
}

function readWords(text: string, line: number): Word[] {
  const words: Word[] = [];
  let at = 0;
  while (at < text.length) {
    if (/\s/.test(text[at]!)) {
      at++;
      continue;
    }
    WORD.lastIndex = at;
    const found = WORD.exec(text);
    if (!found)
      throw new EsquisseError(
        'program-invalid',
        `Line ${line}: "${text.slice(at, at + 12)}" is not a letter with a number.`,
        `line ${line}`,
      );
    words.push({ letter: found[1]!.toUpperCase(), value: Number(found[2]) });
    at = WORD.lastIndex;
  }
  return words;
}
