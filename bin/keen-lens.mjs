#!/usr/bin/env node
import { register } from 'tsx/esm/api';
import { isBuilt } from '../scripts/shared.mjs';

const built = isBuilt();
if (!built) register();
const { main } = await import(built ? '../dist/node/main.js' : '../src/cli/main.ts');
process.exitCode = await main(process.argv);
