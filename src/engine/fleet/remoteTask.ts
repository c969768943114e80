import { array, boolean, mixed, number, object, string, type AnySchema } from 'yup';
import { InputError } from '../../core/capture/errors';
import { FIGURES } from '../../core/proof/proof';
import { makeProbe, type ProbeFindings, type ProbePlan } from '../probe/probePlan';
import { runReplay, type ReplayPlan, type ReplayRuns } from '../replay/runReplay';
import type { RemoteTaskKind } from '../store/fleetSchema';

/** What each kind of task takes, and what it brings. */
export interface RemoteTasks {
  readonly probe: { readonly input: ProbePlan; readonly result: ProbeFindings };
  readonly proof: { readonly input: ReplayPlan; readonly result: ReplayRuns };
}

/** A task as a recorder gets it. */
export type TaskWork = {
  readonly [K in RemoteTaskKind]: {
    readonly kind: K;
    readonly title: string;
    /** Only a recorder of this version does it: both sides know what the other means. */
    readonly version: string;
    readonly input: RemoteTasks[K]['input'];
  };
}[RemoteTaskKind];

/**
 * Does a task on this machine.
 * @throws PageError when it cannot be done
 */
export function doRemoteTask(
  work: TaskWork,
  { ownPorts, signal }: { readonly ownPorts: readonly number[]; readonly signal: AbortSignal },
): Promise<RemoteTasks[RemoteTaskKind]['result']> {
  if (work.kind === 'proof') return runReplay(work.input, { signal });
  return makeProbe(work.input, { ownPorts, signal, onStep: () => undefined });
}

const bytes = () => mixed((v): v is Uint8Array => v instanceof Uint8Array);
const frames = array(object({ atMs: number().required(), picture: bytes().required() })).required();
const visit = object({
  ...Object.fromEntries(FIGURES.map((name) => [name, number().required()])),
  hero: string().defined(),
  errors: array(string().required()).required(),
  unreachable: array(string().required()).required(),
  steal: number().required(),
  requests: array(
    object({
      url: string().required(),
      foundMs: number().required(),
      sentMs: number().required(),
      firstByteMs: number().required(),
      endMs: number().required(),
    }),
  ).required(),
  screenshot: bytes(),
  frames,
});
const urls = array(string().required()).required();
const entries = array(object()).required();

/** What a result has to look like before anything is made of it. */
const RESULTS: Readonly<Record<RemoteTaskKind, AnySchema>> = {
  proof: object({
    browser: string().max(200).required(),
    way: string().oneOf(['namespaces', 'userspace']).required(),
    warm: visit.required(),
    before: array(visit.required()).min(1).max(100).required(),
    after: array(visit.required()).min(1).max(100).required(),
    film: object({ before: frames, after: frames }).required(),
    unanswered: urls,
    differs: urls,
  }).required(),
  probe: object({
    askedAt: string().required(),
    entrances: array(
      object({ from: string().required(), verdict: string().required(), says: string().defined() }),
    ).required(),
    certificates: entries,
    hsts: entries,
    versions: entries,
    robots: object({ url: string().required(), allowsHome: boolean().required() }).default(undefined),
    outsideLinks: array(object()).default(undefined),
  }).required(),
};

/** A result that a recorder has handed in. @throws InputError for one of another shape */
export function readResult<K extends RemoteTaskKind>(kind: K, value: unknown, where: string): RemoteTasks[K]['result'] {
  try {
    return RESULTS[kind].validateSync(value, { strict: true }) as RemoteTasks[K]['result'];
  } catch (error) {
    throw new InputError(
      `The result of a recorder is no ${kind}: ${error instanceof Error ? error.message : String(error)}`,
      where,
      'Update recorder and server to one version, then start again.',
    );
  }
}
