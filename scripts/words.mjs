/**
 * Lists the words that the application shows, by the file that holds them, so that they can be read in one go:
 * `npm run words [part of a file's path]`. From templates it takes texts and spoken names, from code the sentences,
 * labels and messages; `…` stands for what is put in.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { parseTemplate } from '@angular/compiler';
import ts from 'typescript';
import { root } from './prepare.mjs';

const FOLDERS = ['apps/web/src', 'packages/core/src', 'packages/cli/src', 'apps/server/src'];
/** Attributes that people see or hear. */
const SPOKEN = /^(aria-label|aria-description|title|placeholder|alt|label|hint|matTooltip|.*[tT]itle|.*[wW]ords?)$/;
/** Properties whose text is shown even when it is a single small word. */
const SHOWN = /^(label|name|word|words|title|text|what|unit|whenEmpty|hint|missing|message)$/;

const only = process.argv[2] ?? '';
for (const folder of FOLDERS)
  for (const file of readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' }).sort()) {
    const path = join(folder, file);
    if (!file.endsWith('.ts') || /\.(test|spec)\.ts$|Code\.ts$/.test(file) || !path.includes(only)) continue;
    const words = [...new Set(wordsOf(join(root, path)))];
    if (words.length > 0) console.log(`\n${relative('.', path)}\n${words.map((w) => `  ${w}`).join('\n')}`);
  }

/** @returns what one source file shows */
function wordsOf(path) {
  const source = ts.createSourceFile(path, readFileSync(path, 'utf8'), ts.ScriptTarget.Latest, true);
  const words = [];
  const add = (text, isShown) => {
    const plain = text.replaceAll(/\s+/g, ' ').trim();
    if (isShown ? /\p{L}/u.test(plain) : isSentence(plain)) words.push(plain);
  };
  const visit = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isLiteralTypeNode(node)) return;
    const name = ts.isPropertyAssignment(node) ? node.name.getText() : '';
    if (name === 'template') return void words.push(...wordsOfTemplate(node.initializer.text, path));
    if (/^(styles|selector|styleUrl|templateUrl|testid|key|keys|id|code)$/.test(name)) return;
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node))
      add(node.text, ts.isPropertyAssignment(node.parent) && SHOWN.test(node.parent.name.getText()));
    if (ts.isTemplateExpression(node))
      add(node.head.text + node.templateSpans.map((span) => `…${span.literal.text}`).join(''));
    ts.forEachChild(node, visit);
  };
  visit(source);
  return words;
}

/** Several words, or one that begins like a label. */
function isSentence(text) {
  return /\p{L}{2,} \p{L}/u.test(text) || /^\p{Lu}\p{Ll}{2,}[\p{L} ,.…]*$/u.test(text);
}

function wordsOfTemplate(template, path) {
  const words = [];
  const add = (text) => {
    const plain = text
      .replaceAll(/\{\{.*?\}\}/gs, '…')
      .replaceAll(/\s+/g, ' ')
      .trim();
    if (/\p{L}{2,}/u.test(plain)) words.push(plain);
  };
  const { nodes } = parseTemplate(template, path, { preserveWhitespaces: false });
  const seen = new Set();
  const visit = (node) => {
    if (!node || typeof node !== 'object' || seen.has(node)) return;
    seen.add(node);
    const { constructor } = node;
    if (constructor.name === 'Text$3' || ('value' in node && typeof node.value === 'string' && !('name' in node)))
      add(node.value);
    if ('name' in node && typeof node.value === 'string' && SPOKEN.test(node.name)) add(node.value);
    // texts that are chosen or joined in an expression
    if ('ast' in node && 'source' in node)
      for (const [, text] of String(node.source).matchAll(/'([^']{3,})'/g)) add(text);
    if ('value' in node && node.value?.source && !('name' in node)) add(node.value.source);
    for (const key of Object.keys(node)) {
      if (key.endsWith('Span') || key === 'sourceSpan' || key === 'i18n') continue;
      const value = node[key];
      if (Array.isArray(value)) value.forEach(visit);
      else if (value && typeof value === 'object' && !key.startsWith('_')) visit(value);
    }
  };
  nodes.forEach(visit);
  return words;
}
