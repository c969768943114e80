import type { APIContext } from 'astro';
import { store } from '../engine/services/openedStore';
import { stateOf } from '../engine/store/handle';

/** An answer of the API as it is sent, and what it says. */
export class Answer {
  private parsed: unknown;

  constructor(readonly text: string) {}

  /** Its JSON; read once, and not to be changed. */
  get value(): unknown {
    this.parsed ??= JSON.parse(this.text);
    return this.parsed;
  }
}

/** Longer answers are made anew each time, and all that are remembered are no longer than this together, in characters. */
const LONGEST = 2_000_000;
const MOST = 8_000_000;

/** Answers by their address, the oldest first, and the state of the database that they hold for. */
let state = '';
let answers = new Map<string, Answer>();
let length = 0;
/** Answers on their way by their address; those that come to nothing that can be shared to undefined. */
let running = new Map<string, Promise<Answer | undefined>>();

const answerOfResponse = new WeakMap<Response, Answer>();

/** The answer that a response was made of, if it is remembered. */
export const rememberedAnswer = (response: Response): Answer | undefined => answerOfResponse.get(response);

/**
 * Lets an endpoint answer from memory as long as nothing in the database has changed. Only for what rests on nothing but
 * the database and the address: not on time, on files or on who asks.
 */
export function remembered(run: (context: APIContext) => Promise<Response>) {
  return async (context: APIContext): Promise<Response> => {
    const db = await store();
    const now = stateOf(db);
    if (now !== state) {
      state = now;
      answers = new Map();
      running = new Map();
      length = 0;
    }
    const address = context.url.pathname + context.url.search;
    const known = answers.get(address);
    if (known) return responseOf(known);
    const same = await running.get(address);
    if (same) return responseOf(same);
    const asked = run(context);
    const answered = asked.then(shared, () => undefined);
    running.set(address, answered);
    const answer = await answered;
    if (running.get(address) === answered) running.delete(address);
    if (!answer) return asked;
    // What was read while something changed may be of before or of after.
    if (stateOf(db) === now && state === now) remember(address, answer);
    return responseOf(answer);
  };
}

/** The answer of a response; undefined for an error or a file, which is left as it is. */
async function shared(response: Response): Promise<Answer | undefined> {
  const isJson = response.headers.get('content-type')?.startsWith('application/json');
  if (response.status !== 200 || !isJson || response.headers.has('content-disposition')) return undefined;
  return new Answer(await response.text());
}

function remember(address: string, answer: Answer): void {
  // Whoever asked at the same time has had it remembered already.
  if (answer.text.length > LONGEST || answers.has(address)) return;
  answers.set(address, answer);
  length += answer.text.length;
  for (const [oldest, { text }] of answers) {
    if (length <= MOST) break;
    answers.delete(oldest);
    length -= text.length;
  }
}

function responseOf(answer: Answer): Response {
  const response = new Response(answer.text, {
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' },
  });
  answerOfResponse.set(response, answer);
  return response;
}
