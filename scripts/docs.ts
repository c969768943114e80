/** Writes docs/checks.md from the checks and fixes themselves: `npm run docs`. */
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { checksMarkdown } from '../src/core/handover/checksMarkdown';

fs.writeFileSync(path.join(path.dirname(fileURLToPath(import.meta.url)), '../docs/checks.md'), checksMarkdown());
