import { expect } from 'chai';
import fc from 'fast-check';
import {
  inGroup,
  PAGE_FACTS,
  PAGE_GROUPS,
  readFact,
  readPageFilter,
  writePageFilter,
} from '../../../src/core/site/pageFilter';

const roundTrip = (filter: Parameters<typeof writePageFilter>[0]) => {
  const written = writePageFilter(filter);
  return readPageFilter((name) => written[name] ?? null);
};

describe('core/site: filter of pages', () => {
  it('comes back from an address as it was written', () => {
    const word = fc.stringMatching(/^[a-z0-9/*-]{1,8}$/);
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 1 }),
        fc.constantFrom(...Object.keys(PAGE_FACTS)),
        word,
        (folder, name, value) => {
          const filter = { folder, fact: [`${name}:${value}`], flag: ['orphan' as const] };
          expect(roundTrip(filter)).to.deep.equal(filter);
        },
      ),
    );
  });

  it('leaves out facts and flags that there are not', () => {
    const read = readPageFilter(
      (name) => ({ fact: 'language:en,shoe:42,constructor:x,type:', flag: 'orphan,toString' })[name] ?? null,
    );
    expect(read).to.deep.equal({ fact: ['language:en', 'type:'], flag: ['orphan'] });
    expect(readFact('type:')).to.deep.equal({ name: 'type', value: '' });
    expect(readFact('none')).to.equal(undefined);
  });

  it('narrows to one group, in place of another one of the same fact', () => {
    const filter = { words: 'x', fact: ['language:en', 'type:text/html'] };
    expect(inGroup(filter, 'language', 'de')).to.deep.equal({ words: 'x', fact: ['type:text/html', 'language:de'] });
    expect(inGroup(filter, 'status', '404')).to.deep.equal({ ...filter, status: ['404'] });
    for (const by of PAGE_GROUPS) expect(roundTrip(inGroup({}, by, 'a'))).to.deep.equal(inGroup({}, by, 'a'));
  });
});
