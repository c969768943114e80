import type { OwnTrust } from '../../core/proof/learn';
import type { ProofSummary } from '../../core/proof/summary';

/** What the proofs of a site found, the latest first, and what they say of its forecasts. */
export interface ProofsAnswer {
  readonly proofs: readonly ProofSummary[];
  readonly trust: OwnTrust;
}

/** Where the load of a proved page is asked for. */
export const proofStoryPath = (id: number) => `/api/proofs/${id}/story`;

/** Where the proofs of a site are asked for. */
export const proofsPath = (siteId: number) => `/api/sites/${siteId}/proofs`;
