// The entry of a thread of the bench: lets TypeScript be loaded.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
