/** What must hold before anything else of the application is loaded, so that it runs where nothing may make code of text. */
import { config } from 'zod';

// schemas read this when they are made
config({ jitless: true });

/** Lets workers be started from the application's own files: all else that would make a script of text is refused. */
const { trustedTypes } = globalThis as { trustedTypes?: { createPolicy(name: string, rules: object): unknown } };
trustedTypes?.createPolicy('default', {
  createScriptURL: (text: string): string | undefined => {
    const { origin, pathname } = new URL(text, location.href);
    return origin === location.origin && /^\/[\w-]+\.js$/.test(pathname) ? text : undefined;
  },
});
