import type { AccuracyReport } from '../../src/core/plan/accuracy';
import type { Case } from './compare';
import { judge } from './judge';
import { nothingForecast, pagesTable, setsTable } from './setsTable';
import type { ReplayResults } from './replay';
import { replaySection } from './replayTable';
import type { PlanGap } from './planGap';
import type { Sensitivity } from './sensitivity';

const percent = (share: number, digits = 1) => `${(100 * share).toFixed(digits)} %`;
const signed = (ms: number) => `${ms > 0 ? '+' : ''}${Math.round(ms)} ms`;

export interface DocumentInput {
  readonly report: AccuracyReport;
  readonly cases: readonly Case[];
  /** The same captures without main-thread work, as plain HARs are. */
  readonly plain: readonly Case[];
  readonly sensitivities: readonly Sensitivity[];
  readonly plans: { readonly within: PlanGap; readonly order: PlanGap };
  readonly machine: string;
  /** Pages to which constants were fitted. */
  readonly fitted: number;
  /** Pages that are recorded and not measured yet. */
  readonly unmeasured: readonly string[];
  /** What a second, slow recording of each page would win. */
  readonly anchors: string;
  /** What was replayed last. */
  readonly replay?: ReplayResults;
}

/** The text of docs/accuracy.md. */
export function accuracyDocument(input: DocumentInput): string {
  const { report, cases, plain, sensitivities, plans } = input;
  const links = report.links;
  const cell = (c: { cases: number; median: number; worst: number } | undefined) =>
    !c || c.cases === 0 ? '–' : `${percent(c.median)} (worst ${percent(c.worst, 0)}, ${c.cases})`;
  const repeat = cases.flatMap((c) => (c.again ? [c.again] : []));
  return `# How far forecasts can be trusted

Made by \`npm run bench:accuracy\` (${input.machine}). Do not edit: \`bench/accuracy\` writes it.

${report.pages} pages, ${report.heldPages} of them held back, to which no constant was fitted, with ${report.variants} really edited variants; ${report.runs} visits
measured with ${report.browser} over a link with real delay, rate and queue between two network namespaces
(${report.measuredOn}). Every forecast comes from one capture that our own recorder took on a fast link (8 ms,
100 Mbit/s, CPU 1). The variants were made by the tool's own edits. \`npm run bench:accuracy -- --measure\` measures anew
(root, Linux, iproute2, a C compiler, Chromium; about two hours).

## Judged figures

Errors are differences of changes (forecast less measured) as shares of the measured base. A range counts as right when
the measured median is inside, give or take half the range of its own runs.

| Figure | Target | Fitted pages | Pages held back | |
| --- | --- | --- | --- | --- |
${report.rows.map((r) => `| ${r.name} | ${r.target} | ${r.fitted} | ${r.held} | ${r.ok ? 'met' : '**missed**'} |`).join('\n')}

## By who wrote the pages

Pages of ours to which constants were fitted; pages of ours that came later, each with a mechanism of its own; and documents
of published packages (\`bench/accuracy/outsiders\`), which nobody here wrote, served in several ways. A third of all that came
later was held back by a draw before any was measured.

${setsTable(cases)}

A difference is what exceeds 40 ms, 8 % of the base and half the range of the runs; one is forecast where none was
measured when the forecast exceeds one and a half times that. "Runs apart" is half the range of the runs of one variant, as a
share of the base, in the middle: no forecast can be nearer.

## Pages that nobody had looked at

Written last, on 1 December 2026 when the model had just learnt of them, and measured before any simulation of them was
looked at: herald (Early Hints of its sheet, font and hero) and noticeboard (Link headers that preload a background hero and
connect to a host of data). Of their changes the model as it was then said 2.9 % (90 % within 15.7 %), direction 88.9 %, a
change where none was measured 6.1 %, base 5.6 % (13.1 %). The figures since:

${pagesTable(cases, ['herald', 'noticeboard'])}

Written before that, in the night to 1 December 2026, and measured before any simulation of them was looked at: seedshop (lazy
pictures throughout, a font that swaps), essay (a text hero, advertisements), exhibition (a redirect, a background hero in
an imported stylesheet). Of their changes the model as it was then said 2.3 % (90 % within 9.0 %), direction 94.9 %, a change
where none was measured 3.9 %, rank 1.00, base 9.2 % (23.7 %), 90 % inside a range of 13.6 %. Two things were found on them
and mended: a server that can still choose keeps no more than some kB unsent, however large its window; and a drawing in
the markup is content that waits for no font. The figures since:

${pagesTable(cases, ['seedshop', 'essay', 'exhibition'])}

Earlier that night, in the same way: welcome (styles in the page, tags that load tags), pressings (blurred stand-ins),
almanac (data and modules) and rotunda (a picture that a timer puts in). The model of 30 November said of their changes 3.4 %
(90 % within 9.6 %), direction 97.7 %, a change where none was measured 6.5 %, rank 1.00, base 10.6 % (18.9 %). Found on
rotunda and welcome, and mended then: browsers open a second connection to the host of the page, timers follow what set
them, servers keep their window over a rest, and frames are on the screen sooner than was assumed. The figures since:

${pagesTable(cases, ['welcome', 'pressings', 'almanac', 'rotunda'])}

Measured on 30 November 2026, before any simulation of them was looked at: panorama (ours, a hero of five million pixels),
responsive and rows (of others, a carousel and a grid). Nothing was fitted to them; what changed of the model afterwards was
found on kit and reference (below). panel, of that evening, is held back.

${pagesTable(cases, ['panorama', 'responsive', 'rows'])}

![Forecast against measured changes of hero paint](accuracy.svg)

Each mark is a variant on a link; on the line the forecast is right, the dotted lines are 10 % of the base away.

## By kind of fix and link

Median error of the change of hero paint, the worst one, and how many.

| Kind | ${links.map((l) => l.name).join(' | ')} |
| --- | ${links.map(() => '---').join(' | ')} |
${report.kinds.map((k) => `| ${k.kind} | ${links.map((l) => cell(k.cells[l.id])).join(' | ')} |`).join('\n')}

## The worst ten

| Page, link, variant | Measured | Forecast | Error | Why |
| --- | --- | --- | --- | --- |
${report.worst.map((w) => `| ${w.page}, ${w.link}, ${w.variant}, ${w.metric} | ${signed(w.measured)} of ${w.base} ms | ${signed(w.forecast)} | ${percent(w.error, 0)} | ${w.why} |`).join('\n')}

## What is missed, and why

- *Always* is a hard word for figures with noise: a sign counts as wrong when the change was more than 100 ms and more
  than half the range of the runs, and runs of one variant lie up to some hundred ms apart on a machine whose host takes
  processor time away. A fix that changes nothing (a connection opened early that nobody waits for) is forecast as exactly
  nothing, and a measured difference of 104 ms then counts as a wrong sign. ${nothingForecast(cases)} The rest are cases as
  in the list above.
- Every page was measured at least once on a calm day with nothing beside it; most of them twice, on different days and
  with two versions of Chromium. Of two measurings the one whose runs lie closer together is kept
  (\`--measure --again\`), whatever the forecasts say; for shop that is the one beside which other programs ran at times.
- The pages of 28 and 29 November (ours, later, and of others) were measured three to five times each on days on which the time until the
  first byte alone lay 100 to 200 ms apart from run to run, and on the second of them the host took processor time at times. A
  change of 60 ms that is none counts there as one of 10 % on the fast link; "runs apart" above says how much. They are no
  worse for that as a warning, and have to be measured again on a calm machine before anything is fitted to them. sheet was,
  on the evening of the second day: its runs lay 40 % apart before, and 23 % since. slides, entry and thumbs were measured on
  30 November, three runs each, when the same loop took 0.7 to 1.6 s on this machine from one moment to the next; responsive,
  panorama and rows at noon of that day, three runs each; those of responsive were mostly repeated, since the host took more than
  4 % of the processors' time. charts was measured again that afternoon, five runs each: single runs lay no closer together
  than before (16.3 and 16.0 %), so the first measuring is kept; shuttle was in the evening, five runs each (15.1 %, 15.8 before).
  kit, panel and reference were measured that evening, three runs each, and recorded once more when the recorder had been mended.
  planner and seasons were measured anew late that evening with a variant more each (the content in the HTML), five runs and
  four; responsive with seven runs a variant, which lie no closer together than the three before: those are kept. panel, board,
  media and deck were measured again in the night to 1 December, three runs each, on a calm machine: their runs lie 6 to 8 % apart,
  and 10 to 15 % before. panel as it is painted first after 2.1 s on the busy link before, and after 1.6 s then. sheet and
  charts were on the morning of that day: 15 % (22 before) and 6 % (16 before).
- On 1 December every capture was recorded anew, each run in a tab that had been left alone for 0.7 s: a new tab is busy with
  itself, and that had made recordings slow and each run another. Simulated under their own conditions recordings are met
  within 8 % in the middle since, 18 % before. Visits of this bench open a new tab as well, those until 29 November in a
  window that was new, too. Pages measured then paint 6 to 16 % later than is simulated, those of 1 December 2 to 6 % sooner:
  constants were left between the two.
- bulletin (a server that sends the document in two parts) was written when the model knew of such pauses, and measured
  before any simulation of it was looked at, four runs each.
- Found on reference (a module builds all that is seen): the recorder and the visits of this bench took a page for settled
  while its scripts were still at it, an element that a script defines counted as content, and what a script asks for while
  it runs waited for the next script. Found on kit (four backgrounds at once): answers to requests of one moment were sent
  one whole after the other.
  ${input.unmeasured.length > 0 ? `Not measured yet: ${input.unmeasured.join(', ')}.` : ''}
- Until 29 November visits were made in private windows, which send no cookies to other sites: a connection that a
  preconnect had opened to another site stayed unused there, which most visitors' browsers use. Visits are made with a
  profile as theirs since then, each by a browser of its own. letters, terrace, landing, paper and charts were measured
  anew so, on a calmer afternoon. On letters it told: preconnects had won nothing there. Of the other four the measuring
  whose runs lie closer together is kept, for charts the first.
- Where a page asks one HTTP/1.1 host for more than six pictures without dimensions (shuttle), the first layout raises all of
  them, in an order of the browser's own: the hero came second in one load and twentieth in the next (2.6 to 5.7 s). No
  forecast can name the one; the range has to hold both.
- planner was looked at once while it was held back, and so was the simulation of deck, though no timeline of it; their
  figures are no blind test.
- What is known to be missing in the model: that a frame of another site starts a process; whether a script waits for
  the document's end or for its load event, where the recording shows both at once; whether layout raises a hero just
  before or just after its connection stands (walks), on which half a second hangs with a server that serves all in turn.
- What constants cannot mend was looked for in timelines of the fitted pages. One rule was found on a page held back
  (lectures): text in a font whose rule leaves its display to the browser shows two seconds after the navigation. It was
  then tried on a page of its own; the figures of lectures are no blind test of it.

## Plain HARs

The same captures without main-thread work, which browsers' own exports lack: scripts, parsing and layout cost what
bytes and elements cost in the middle.

| Metric | Median error of changes | At most 25 % | Sign right |
| --- | --- | --- | --- |
${(['lcp', 'fcp'] as const)
  .map((m) => {
    const v = judge(plain.map((c) => c[m]));
    return `| ${m === 'lcp' ? 'hero paint' : 'first paint'} | ${percent(v.median)} | ${percent(v.within25, 0)} | ${percent(v.sign, 0)} |`;
  })
  .join('\n')}

## Second visits

${
  repeat.length === 0
    ? 'Not measured.'
    : `On ${repeat.length} variants and links the visit was made again with what the first one had kept: median error of the change of hero paint ${percent(judge(repeat).median)}, of the base ${percent(
        [...repeat].map((f) => Math.abs(f.forecastBase - f.base) / f.base).sort((a, b) => a - b)[
          Math.floor(repeat.length / 2)
        ] ?? 0,
      )}.`
}

## A second recording over the visitor's link

${input.anchors}

A second recording corrects the page as it is on the link on which it was made. Forecasts of changes become no better by it.
So sweeps record over a fast link only; \`prove\` measures the page as it is beside its fixes.

## Proof by replay

${replaySection(input.replay)}

## Constants

Fitted on ${input.fitted} pages (\`npm run bench:accuracy -- --fit\`). The last columns say how much worse forecasts become with half of a constant, and with
half again of it: what stands at about zero hardly matters, and is no reason for a claim about browsers.

| Constant | Value | Means | half | half again |
| --- | --- | --- | --- | --- |
${sensitivities.map((s) => `| ${s.name} | ${Number(s.value.toPrecision(3))} | ${s.means} | ${percent(s.half)} | ${percent(s.more)} |`).join('\n')}

## Plan search

Greedy search against trying everything, on the fixes that the tool offers for these pages:

| Search | Benches | Best found | Median gap | Worst gap | Sets simulated | by trying everything |
| --- | --- | --- | --- | --- | --- | --- |
${gapRow('best set for half of the effort', plans.within)}
${gapRow('best order (mean of its steps)', plans.order)}
`;
}

const gapRow = (name: string, g: PlanGap) =>
  `| ${name} | ${g.benches} | ${g.found} | ${percent(g.median)} | ${percent(g.worst)} | ${g.evaluations} | ${g.exhaustive} |`;
