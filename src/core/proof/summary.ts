import { breaksFirstScreen, verdictOf, verdictText, type Proved, type Verdict } from './words';

/** What lists, benches and plans say of a proof. */
export interface ProofSummary {
  readonly id: number;
  readonly captureId: number | null;
  readonly page: string;
  readonly title: string;
  readonly visitor: string;
  readonly visitorName: string;
  readonly groups: readonly { readonly id: string; readonly title: string }[];
  readonly provedAt: string;
  readonly verdict: Verdict;
  readonly breaks: boolean;
  readonly newErrors: number;
  /** Measured change of hero paint, in ms. */
  readonly lcpMs: number;
  readonly text: string;
}

/** Sums up a proof. */
export function summaryOf(
  row: Omit<ProofSummary, 'verdict' | 'breaks' | 'newErrors' | 'lcpMs' | 'text'> & { readonly proof: Proved },
): ProofSummary {
  const { proof, id, captureId, page, title, visitor, visitorName, groups, provedAt } = row;
  return {
    id,
    captureId,
    page,
    title,
    visitor,
    visitorName,
    groups,
    provedAt,
    verdict: verdictOf(proof),
    breaks: breaksFirstScreen(proof),
    newErrors: proof.newErrors.length,
    lcpMs: proof.change.lcpMs.median,
    text: verdictText(proof),
  };
}

/** What is to be said against a fix by its proof; undefined where nothing is. */
export function warningOf(proof: Pick<ProofSummary, 'verdict' | 'breaks' | 'newErrors'>): string | undefined {
  if (proof.breaks) return 'the first screen looks different with it';
  if (proof.newErrors > 0)
    return proof.newErrors === 1 ? 'it brings a new error' : `it brings ${proof.newErrors} new errors`;
  if (proof.verdict === 'less') return 'it won less than promised';
  return undefined;
}

/** The latest proof of exactly these groups for a visitor, on any page. */
export function proofOf(
  proofs: readonly ProofSummary[],
  groups: readonly string[],
  visitor: string,
): ProofSummary | undefined {
  const wanted = [...groups].sort().join('\n');
  return proofs.find(
    (p) =>
      p.visitor === visitor &&
      p.groups
        .map((g) => g.id)
        .sort()
        .join('\n') === wanted,
  );
}
