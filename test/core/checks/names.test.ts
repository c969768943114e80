import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { CHECKS } from '../../../src/core/checks';

const folder = path.join(__dirname, '../../../src/core/checks');
const camel = (id: string) => id.replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase());

describe('core/checks names', () => {
  for (const check of CHECKS)
    it(`${check.id} stands in the file and export of its name`, () => {
      const file = path.join(folder, check.concern, `${camel(check.id)}.ts`);
      expect(fs.existsSync(file), file).to.equal(true);
      expect(fs.readFileSync(file, 'utf8')).to.match(new RegExp(`export const ${camel(check.id)}: Check\\b`));
    });
});
