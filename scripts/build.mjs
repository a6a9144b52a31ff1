import { build, ensurePackages } from './prepare.mjs';

await ensurePackages();
await build();
