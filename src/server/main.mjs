// The server's entry: lets TypeScript be loaded, from whatever folder it is started in.
import { register } from 'tsx/esm/api';

register();
await import('./serve.ts');
