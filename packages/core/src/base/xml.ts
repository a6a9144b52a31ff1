import { SaxesParser } from 'saxes';
import { EsquisseError, messageOf } from './errors';

/** An element of an XML text, its name without the prefix of its name space. */
export interface XmlElement {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: XmlElement[];
}

/** Elements within elements deeper than this are damage. */
const DEEPEST = 256;
/** Characters given to the parser at once. */
const PORTION = 65_536;

/**
 * Goes through the elements of an XML text to its end, in their order; comments, texts and name spaces are passed over.
 *
 * @param what the file, as a sentence begins with it
 * @param begin told of each element; of its children nothing is known yet
 * @throws EsquisseError `file-unreadable`, naming the line
 */
export function eachElement(
  text: string,
  what: string,
  begin: (element: XmlElement) => void,
  end: () => void = () => undefined,
): void {
  const parser = new SaxesParser();
  let depth = 0;
  let count = 0;
  const wrong = (why: string): EsquisseError =>
    new EsquisseError('file-unreadable', `${what} is no sound XML: ${why}.`, `line ${parser.line}`);
  parser.on('error', (error) => {
    throw wrong(messageOf(error));
  });
  parser.on('opentag', ({ name, attributes }) => {
    count++;
    if (++depth > DEEPEST) throw wrong('elements within elements have no end');
    begin({ name: name.slice(name.indexOf(':') + 1), attributes, children: [] });
  });
  parser.on('closetag', () => {
    depth--;
    end();
  });
  for (let at = 0; at < text.length; at += PORTION) parser.write(text.slice(at, at + PORTION));
  parser.close();
  if (count === 0) throw wrong('it holds nothing');
}

/** Reads an XML text as a tree. @throws EsquisseError `file-unreadable`, naming the line */
export function readXml(text: string, what: string): XmlElement {
  const open: XmlElement[] = [];
  let root: XmlElement | undefined;
  eachElement(
    text,
    what,
    (element) => {
      open[open.length - 1]?.children.push(element);
      root ??= element;
      open.push(element);
    },
    () => open.pop(),
  );
  return root!;
}
