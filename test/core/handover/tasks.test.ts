import { expect } from 'chai';
import {
  serverText,
  TASK_COLUMNS,
  taskRows,
  tasksMarkdown,
  type Task,
  type TaskHead,
} from '../../../src/core/handover/tasks';

const HEAD: TaskHead = {
  site: 'Fernhollow Botanic Garden',
  plan: 'Before the spring fair',
  visitor: 'Phone, busy mobile',
  pages: 8,
  day: '2026-11-12',
  nowMs: 6300,
  afterMs: 2900,
  range: [2500, 3200],
};
const TASK: Task = {
  title: 'Load the heroes eagerly',
  pages: ['https://www.fernhollow.example/glasshouse/'],
  effort: 20,
  owner: 'Ivy',
  due: '2026-12-01',
  state: 'started',
  aloneMs: -1500,
  addedMs: -700,
  aloneRange: [-1800, -1100],
  addedRange: [-900, -500],
  coveredBy: 'Preload the heroes',
  changes: [
    {
      url: 'https://www.fernhollow.example/glasshouse/',
      line: 38,
      column: 7,
      offset: 900,
      before: '<img src="/p/blank.gif" data-full="a.jpg">',
      after: '<img src="a.jpg">',
    },
  ],
  server: [{ do: 'resize', url: 'https://media.fernhollow.example/p/a.jpg', width: 1000, height: 650 }],
  fixedWhen: ['The hero is named in the source.'],
};

describe('core/handover/tasks', () => {
  const text = tasksMarkdown(HEAD, [TASK]);

  it('says where, what to change, what it wins and how to tell that it worked', () => {
    expect(text).to.contain('# Before the spring fair: Fernhollow Botanic Garden');
    expect(text).to.contain('6.3 s now, 2.9 s (2.5 to 3.2 s) with all tasks, by forecast');
    expect(text).to.contain('## 1. Load the heroes eagerly');
    expect(text).to.contain('Owner: Ivy · Due: 2026-12-01 · State: started · about 20 min');
    expect(text).to.contain('saves 700 ms (500 to 900 ms) on top of the tasks before it; alone: saves 1.5 s');
    expect(text).to.contain('most of it is already saved by “Preload the heroes”');
    expect(text).to.contain('<https://www.fernhollow.example/glasshouse/>, line 38, column 7:');
    expect(text).to.contain('```diff\n-<img src="/p/blank.gif" data-full="a.jpg">\n+<img src="a.jpg">\n```');
    expect(text).to.contain('- Re-encode <https://media.fernhollow.example/p/a.jpg> at 1000 × 650 pixels.');
    expect(text).to.contain('Done when:\n\n- The hero is named in the source.');
  });

  it('lets nothing of a page out of its fence or into the markup', () => {
    const hostile = tasksMarkdown(HEAD, [
      {
        ...TASK,
        title: '# <script>alert(1)</script> [x](javascript:1) | `y`',
        changes: [{ url: 'https://a.example/', line: 1, column: 1, offset: 0, before: '```\n# out', after: '````' }],
      },
    ]);
    expect(hostile).to.contain('## 1. \\# \\<script\\>alert(1)\\</script\\> \\[x\\](javascript:1) \\| \\`y\\`');
    // The fence is longer than the longest run inside.
    expect(hostile).to.contain('`````diff\n-```\n-# out\n+````\n`````');
  });

  it('counts places beyond the first', () => {
    const many = Array.from({ length: 9 }, (_, i) => ({
      url: 'https://a.example/',
      line: i + 1,
      column: 1,
      offset: i,
      before: 'a',
      after: 'b',
    }));
    expect(tasksMarkdown(HEAD, [{ ...TASK, changes: many }])).to.contain('and 3 more places like these.');
  });

  it('writes a row for each task, as many cells as columns', () => {
    const [row] = taskRows([TASK]);
    expect(row).to.have.length(TASK_COLUMNS.length);
    const cell = (name: (typeof TASK_COLUMNS)[number]) => row?.[TASK_COLUMNS.indexOf(name)];
    expect(cell('state')).to.equal('started');
    expect(cell('hero paint, ms: added')).to.equal(-700);
    expect(cell('place')).to.equal('https://www.fernhollow.example/glasshouse/:38:7');
  });

  it('has words for every change outside the source', () => {
    const url = 'https://a.example/f';
    expect(
      [
        { do: 'compress', url },
        { do: 'minify', url },
        { do: 'copy', url, to: 'https://b.example/f' },
        { do: 'convert', url, to: 'https://a.example/f.woff2' },
        { do: 'header', url, name: 'cache-control', value: 'max-age=9' },
        { do: 'answer', url, waitMs: 99.6 },
      ].map((s) => serverText(s as never)),
    ).to.deep.equal([
      'Send <https://a.example/f> compressed (gzip or better).',
      'Take comments and spaces out of <https://a.example/f>.',
      'Serve <https://a.example/f> from <https://b.example/f>.',
      'Offer <https://a.example/f> as WOFF 2 under <https://a.example/f.woff2>.',
      'Send `cache-control: max-age=9` with <https://a.example/f>.',
      'Let <https://a.example/f> be answered within 100 ms.',
    ]);
  });
});
