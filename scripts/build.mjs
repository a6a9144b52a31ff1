import { build, ensurePackages } from './prepare.mjs';

ensurePackages();
build();
