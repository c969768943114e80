// A process that may be killed: runs the queued jobs of a data folder, or only opens its database.
import { register } from 'tsx/esm/api';

register();
await import('./child.ts');
