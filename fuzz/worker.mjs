import { register } from 'tsx/esm/api';

register();
await import('./reading.ts');
