import type { Finding } from '../checks/finding';
import { findingsSarif } from '../handover/sarif';
import { xmlText } from '../handover/xmlText';
import type { GateReport } from './judgeLimits';
import { figureText, gateVerdict, judgedText, limitName, worseText } from './words';

/** A report of a gate as JUnit XML: a test case for each limit, and for each figure that became worse. */
export function gateJunit(report: GateReport, at: string): string {
  const cases = [
    ...report.limits.map((j) => ({ name: limitName(j.limit), page: j.page, says: judgedText(j), failed: j.broken })),
    ...report.worse.map((w) => ({ name: `no worse than before`, page: w.page, says: worseText(w), failed: true })),
  ];
  const failures = cases.filter((c) => c.failed).length;
  const rows = cases.map(({ name, page, says, failed }) => {
    const open = `    <testcase classname="${xmlText(page)}" name="${xmlText(name)}" time="0">`;
    return failed
      ? `${open}\n      <failure message="${xmlText(says)}">${xmlText(says)}</failure>\n    </testcase>`
      : `${open}\n      <system-out>${xmlText(says)}</system-out>\n    </testcase>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuites name="Keen Lens" tests="${cases.length}" failures="${failures}">`,
    `  <testsuite name="limits" tests="${cases.length}" failures="${failures}" errors="0" skipped="0" time="0" timestamp="${xmlText(at)}">`,
    ...rows,
    '  </testsuite>',
    '</testsuites>',
    '',
  ].join('\n');
}

/** A report as a Markdown summary: the verdict, a table of limits, what became worse and which findings are new. */
export function gateMarkdown(report: GateReport): string {
  const rows = report.limits.map(
    (j) =>
      `| ${cell(j.page)} | ${cell(limitName(j.limit))} | ${figureText(j.limit.figure, j.value)}${j.range ? ` (${figureText(j.limit.figure, j.range[0])} to ${figureText(j.limit.figure, j.range[1])})` : ''} | ${figureText(j.limit.figure, j.limit.most)} | ${j.before === undefined ? '' : figureText(j.limit.figure, j.before)} | ${j.broken ? '**broken**' : 'holds'} |`,
  );
  return [
    `## Keen Lens: ${report.passed ? 'passed' : 'failed'}`,
    '',
    gateVerdict(report),
    '',
    '| Page | Limit | Value | At most | Before | |',
    '| --- | --- | --- | --- | --- | --- |',
    ...rows,
    ...(report.worse.length > 0
      ? ['', '### Became worse', '', ...report.worse.map((w) => `- ${cell(w.page)}: ${cell(worseText(w))}`)]
      : []),
    ...(report.newFindings.length > 0
      ? ['', '### New findings', '', ...report.newFindings.map((f) => `- ${f.harm}: ${cell(f.title)}`)]
      : []),
    '',
  ].join('\n');
}

/** Findings as SARIF 2.1.0 with broken limits and what became worse among the results. */
export function gateSarif(report: GateReport, findings: readonly Finding[], version: string): object {
  const sarif = findingsSarif(findings, version) as {
    runs: { tool: { driver: { rules: object[] } }; results: object[] }[];
  };
  const [run] = sarif.runs;
  if (!run) return sarif;
  const result = (text: string, page: string) => ({
    ruleId: 'limit',
    level: 'error',
    message: { text },
    locations: [{ physicalLocation: { artifactLocation: { uri: page } } }],
  });
  run.tool.driver.rules.push({ id: 'limit', shortDescription: { text: 'Does every figure keep within its limit?' } });
  run.results.push(
    ...report.limits.filter((j) => j.broken).map((j) => result(judgedText(j), j.page)),
    ...report.worse.map((w) => result(worseText(w), w.page)),
  );
  return sarif;
}

/** Addresses and titles come from pages: they must not end a cell, nor become markup. */
const cell = (text: string) => text.replace(/[\\|`*_[\]<>]/g, '\\$&').replace(/\s+/g, ' ');
