import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { decompress } from 'woff2-encoder';
import { toWoff2 } from '../../src/engine/imaging/fonts';
import { projectRoot } from '../../src/engine/store/store';

const FILES = path.join(projectRoot(), 'node_modules/@fontsource');
/** A WOFF 1.0 file of some package that is there. */
function woffFile(): string {
  for (const name of fs.readdirSync(FILES)) {
    const folder = path.join(FILES, name, 'files');
    const file = fs.existsSync(folder) && fs.readdirSync(folder).find((f) => /latin-400-normal\.woff$/.test(f));
    if (file) return path.join(folder, file);
  }
  throw new Error('no package has a WOFF 1.0 file');
}

/** Tags of an OpenType font's tables, sorted. */
function tagsOf(font: Buffer): string[] {
  return Array.from({ length: font.readUInt16BE(4) }, (_, i) =>
    font.toString('latin1', 12 + i * 16, 16 + i * 16),
  ).sort();
}

describe('engine/imaging: fonts', () => {
  const woff = fs.readFileSync(woffFile());

  it('makes WOFF 2 of WOFF, smaller and with every table', async () => {
    const made = await toWoff2(woff);
    expect(made?.toString('latin1', 0, 4)).to.equal('wOF2');
    expect(made?.length).to.be.below(0.95 * woff.length);
    const bare = Buffer.from(await decompress(made as Buffer));
    const tags = Array.from({ length: woff.readUInt16BE(12) }, (_, i) =>
      woff.toString('latin1', 44 + i * 20, 48 + i * 20),
    );
    // A digital signature does not outlive a conversion (WOFF 2.0, 5.2).
    expect(tagsOf(bare)).to.deep.equal(tags.filter((t) => t !== 'DSIG').sort());
    // A bare font gives the same.
    expect((await toWoff2(bare))?.length).to.be.closeTo((made as Buffer).length, 40);
  });

  it('leaves alone what is no font, and what is broken', async () => {
    expect(await toWoff2(new Uint8Array())).to.equal(undefined);
    expect(await toWoff2(Buffer.from('not a font at all'))).to.equal(undefined);
    expect(await toWoff2(woff.subarray(0, 200))).to.equal(undefined);
    const lying = Buffer.from(woff);
    lying.writeUInt32BE(0x7fffffff, 44 + 12);
    expect(await toWoff2(lying)).to.equal(undefined);
    expect(await toWoff2(Buffer.concat([Buffer.from([0, 1, 0, 0]), Buffer.alloc(60, 255)]))).to.equal(undefined);
  });
});
