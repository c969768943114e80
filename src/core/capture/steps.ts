import { InputError } from './errors';
import { shapeOf, type Shape } from './shape';

/** One thing to do in a browser before pages are recorded: to log in, to answer a consent layer. */
export type Step =
  | { readonly do: 'open'; readonly url: string }
  | {
      readonly do: 'fill';
      readonly selector: string;
      /** Stated, or the name of an environment variable that holds it. */
      readonly value: { readonly text: string } | { readonly env: string };
    }
  | { readonly do: 'click'; readonly selector: string }
  | { readonly do: 'wait'; readonly selector: string };

const MOST_STEPS = 50;

/**
 * Reads a file of steps: `{ "steps": [{ "open": URL }, { "fill": SELECTOR, "value": TEXT } or { "fill": SELECTOR, "env":
 * NAME }, { "click": SELECTOR }, { "wait": SELECTOR }] }`. The first step opens a page.
 * @throws InputError with the JSON path of what is wrong
 */
export function readSteps(text: string, where: string): Step[] {
  const next = 'Write { "steps": [{ "open": "https://www.fernhollow.example/login/" }] }.';
  const list = shapeOf(text, where, next).at('steps').array('A file of steps has a list "steps".');
  if (list.length === 0 || list.length > MOST_STEPS)
    throw new InputError(`There are ${list.length} steps.`, `${where}.steps`, `Write from 1 to ${MOST_STEPS}.`);
  const steps = list.map(readStep);
  if (steps[0]?.do !== 'open')
    throw new InputError('Nothing is open yet.', `${where}.steps[0]`, 'Let the first step open a page.');
  return steps;
}

function readStep(shape: Shape): Step {
  shape.object('A step is an object.');
  const url = shape.at('open').optionalString();
  if (url !== undefined) {
    if (!URL.canParse(url) || !/^https?:$/.test(new URL(url).protocol))
      throw new InputError(`"${url}" is no web address.`, `${shape.path}.open`, 'Write it with https:// in front.');
    return { do: 'open', url };
  }
  const click = shape.at('click').optionalString();
  if (click !== undefined) return { do: 'click', selector: click };
  const wait = shape.at('wait').optionalString();
  if (wait !== undefined) return { do: 'wait', selector: wait };
  const fill = shape.at('fill').optionalString();
  if (fill === undefined)
    throw new InputError('This step does nothing.', shape.path, 'Write open, fill, click or wait.');
  const text = shape.at('value').optionalString();
  const env = shape.at('env').optionalString();
  if ((text === undefined) === (env === undefined))
    throw new InputError('A field is filled with one thing.', shape.path, 'Write "value", or "env" for a secret.');
  return { do: 'fill', selector: fill, value: text === undefined ? { env: env ?? '' } : { text } };
}

/** A step in words, without what is filled in. */
export function stepText(step: Step): string {
  return step.do === 'open' ? `open ${step.url}` : `${step.do} ${step.selector}`;
}

/**
 * Values that steps fill in from the environment: they must not be found in a recording.
 * @throws InputError for a variable that is not set
 */
export function stepSecrets(
  steps: readonly Step[],
  env: Readonly<Record<string, string | undefined>>,
): ReadonlyMap<string, string> {
  const out = new Map<string, string>();
  for (const step of steps) {
    if (step.do !== 'fill' || !('env' in step.value)) continue;
    const value = env[step.value.env];
    if (!value)
      throw new InputError(
        `The environment variable ${step.value.env} is not set.`,
        stepText(step),
        `Set it before: ${step.value.env}=… keen-lens record …`,
      );
    out.set(step.value.env, value);
  }
  return out;
}
