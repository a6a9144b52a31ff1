import { defineConfig } from 'vitest/config';

/** Slow proofs: run by hand before a change to the core is called done. */
export default defineConfig({ test: { include: ['proof/**/*.proof.ts'], testTimeout: 900_000 } });
