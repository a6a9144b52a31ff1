/** Where the page's own rules for scripts, styles and the like come from (W3C, Content Security Policy Level 3). */
const COMMON = [
  "default-src 'self'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "worker-src 'self' blob:",
  "img-src 'self' data: blob:",
  "font-src 'self'",
  "connect-src 'self'",
  "object-src 'none'",
  "base-uri 'self'",
  "form-action 'none'",
  "frame-ancestors 'none'",
];

/** What a file of the application may do: a worker takes the policy of its script. */
export const FILE_POLICY = [...COMMON, "style-src 'self'"].join('; ');

/**
 * What the page may do. Styles that the framework puts in carry the page's nonce; nothing makes a script or a frame out of
 * text but by the policies of the framework and the page's own one, which lets workers be started from its own files.
 */
export function pagePolicy(nonce: string): string {
  return [
    ...COMMON,
    `style-src 'self' 'nonce-${nonce}'`,
    "require-trusted-types-for 'script'",
    'trusted-types angular angular#components default',
  ].join('; ');
}

/** The STEP reader builds functions from text: its own worker alone may, and it may load nothing but itself. */
export const STEP_READER = '/step/step-worker.js';
export const STEP_READER_POLICY =
  "default-src 'none'; script-src 'self' 'unsafe-eval' 'wasm-unsafe-eval'; connect-src 'self'";
