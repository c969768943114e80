import { expect } from 'chai';
import sharp from 'sharp';
import { similarityOf } from '../../src/engine/imaging/similarity';

describe('engine/imaging/similarity', () => {
  const circles = Array.from(
    { length: 40 },
    (_, i) => `<circle cx="${(i * 97) % 400}" cy="${(i * 53) % 300}" r="24" fill="hsl(${i * 9} 60% 50%)"/>`,
  );
  const source = sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300"><rect width="400" height="300" fill="#fff"/>${circles.join('')}</svg>`,
    ),
  );

  it('is 1 for the same picture, falls with the quality, and is undefined for what is no picture', async () => {
    const png = await source.clone().png().toBuffer();
    const at = (quality: number) => source.clone().jpeg({ quality }).toBuffer();
    const [good, poor] = await Promise.all([at(90), at(5)]);
    const [same, near, far] = await Promise.all([
      similarityOf(png, png),
      similarityOf(png, good),
      similarityOf(png, poor),
    ]);
    expect(same).to.equal(1);
    expect(near).to.be.within(0.95, 1);
    expect(far).to.be.below(near ?? 0);
    expect(await similarityOf(png, Buffer.from('no picture'))).to.equal(undefined);
  });
});
