import { CHECKS } from '../checks';
import type { Finding } from '../checks/finding';

const LEVEL: Readonly<Record<Finding['harm'], string>> = {
  broken: 'error',
  exposed: 'error',
  slow: 'warning',
  tidy: 'note',
};

/** Findings as a SARIF 2.1.0 log (OASIS), one run, with our checks as its rules. */
export function findingsSarif(findings: readonly Finding[], version: string): object {
  return {
    $schema: 'https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: {
          driver: {
            name: 'Keen Lens',
            version,
            rules: CHECKS.map((c) => ({
              id: c.id,
              shortDescription: { text: c.question },
              fullDescription: { text: `Examines: ${c.examines} Cannot see: ${c.cannotSee}` },
              help: { text: `${c.change} Fixed when: ${c.fixedWhen} Standard: ${c.standard}.` },
              properties: { tags: [c.concern] },
            })),
          },
        },
        results: findings.map((f) => ({
          ruleId: f.check,
          level: LEVEL[f.harm],
          message: { text: `${f.title}. ${f.plain}` },
          locations: [
            {
              physicalLocation: {
                artifactLocation: { uri: f.evidence.source?.url ?? f.evidence.load?.url ?? f.page },
                ...(f.evidence.source
                  ? { region: { startLine: f.evidence.source.line, startColumn: f.evidence.source.column } }
                  : {}),
              },
            },
          ],
          ...(f.evidence.files && {
            relatedLocations: f.evidence.files.map((l) => ({
              physicalLocation: { artifactLocation: { uri: l.url } },
              message: { text: `${l.bytes} bytes` },
            })),
          }),
          partialFingerprints: { finding: f.id, cause: f.cause },
        })),
      },
    ],
  };
}
