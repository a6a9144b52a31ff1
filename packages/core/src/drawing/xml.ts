import { SaxesParser } from 'saxes';
import { EsquisseError, messageOf } from '../base/errors';

/** An element of an XML text. */
export interface XmlElement {
  /** Its name without the prefix of its name space. */
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: XmlElement[];
}

/** Elements within elements deeper than this are damage. */
const DEEPEST = 256;

/**
 * Reads an XML text to its end; comments, texts and name spaces are passed over.
 *
 * @param what the file, as a sentence begins with it
 * @throws EsquisseError `file-unreadable`, naming the line
 */
export function readXml(text: string, what: string): XmlElement {
  const parser = new SaxesParser();
  const open: XmlElement[] = [];
  let root: XmlElement | undefined;
  parser.on('error', (error) => {
    throw new EsquisseError('file-unreadable', `${what} is no sound XML: ${messageOf(error)}.`, `line ${parser.line}`);
  });
  parser.on('opentag', ({ name, attributes }) => {
    const element: XmlElement = { name: name.slice(name.indexOf(':') + 1), attributes, children: [] };
    open[open.length - 1]?.children.push(element);
    root ??= element;
    if (open.push(element) > DEEPEST)
      throw new EsquisseError(
        'file-unreadable',
        `${what} holds elements within elements without end.`,
        `line ${parser.line}`,
      );
  });
  parser.on('closetag', () => open.pop());
  parser.write(text).close();
  if (!root) throw new EsquisseError('file-unreadable', `${what} holds nothing.`);
  return root;
}
