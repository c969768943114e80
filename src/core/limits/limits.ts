import { shapeOf, type Shape } from '../capture/shape';
import { InputError } from '../capture/errors';
import { CONCERNS, type Concern, type Harm } from '../checks/concern';
import { DEFAULT_VISITOR, parseVisitor, type Visitor } from '../load/visitors';

/** Figures that may be limited: times in ms, CLS as a score, bytes as transferred, requests, and findings counted. */
export const FIGURES = ['lcpMs', 'fcpMs', 'loadMs', 'cls', 'bytes', 'requests', 'findings'] as const;
export type LimitedFigure = (typeof FIGURES)[number];

/** The most that a figure of a page may be. */
export interface Limit {
  readonly figure: LimitedFigure;
  /** For whom: times are forecasts for this visitor. */
  readonly visitor: Visitor;
  readonly most: number;
  /** Findings of this concern or harm only. */
  readonly concern?: Concern;
  readonly harm?: Harm;
  /** Share of `most` by which it may be passed before the limit counts as broken; 0 if not stated. */
  readonly tolerance: number;
}

const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];
const MOST_LIMITS = 500;

/**
 * Reads a file of limits: `{ "limits": [{ "figure", "visitor", "most", "concern"?, "harm"?, "tolerance"? }] }`. A visitor
 * that is left out is the busy phone.
 * @throws InputError with the JSON path of what is wrong
 */
export function readLimits(text: string, where: string): Limit[] {
  const next = 'Write { "limits": [{ "figure": "lcpMs", "visitor": "phone-busy", "most": 2500 }] }.';
  const list = shapeOf(text, where, next).at('limits').array('A file of limits has a list "limits".');
  if (list.length === 0)
    throw new InputError('There is no limit in it.', `${where}.limits`, 'State at least one limit.');
  if (list.length > MOST_LIMITS)
    throw new InputError(`More than ${MOST_LIMITS} limits.`, `${where}.limits`, 'Split the file.');
  return list.map(readLimit);
}

function readLimit(shape: Shape): Limit {
  shape.object('A limit is an object.');
  const figure = wordOf(shape.at('figure'), FIGURES, true) as LimitedFigure;
  const most = shape.at('most').optionalNumber();
  if (most === undefined || most < 0)
    throw new InputError(
      'A limit needs a number from 0 up.',
      `${shape.path}.most`,
      'State the most that the figure may be.',
    );
  const tolerance = shape.at('tolerance').optionalNumber() ?? 0;
  if (tolerance < 0 || tolerance > 10)
    throw new InputError(
      'A tolerance is a share of the limit from 0 to 10.',
      `${shape.path}.tolerance`,
      'Write 0.05 for five per cent.',
    );
  const concern = wordOf(
    shape.at('concern'),
    CONCERNS.map((c) => c.id),
  ) as Concern | undefined;
  const harm = wordOf(shape.at('harm'), HARMS) as Harm | undefined;
  if ((concern ?? harm) !== undefined && figure !== 'findings')
    throw new InputError(
      'Only findings can be limited by concern or harm.',
      shape.path,
      'Set "figure" to "findings", or leave concern and harm out.',
    );
  const named = shape.at('visitor').optionalString();
  return {
    figure,
    visitor: named === undefined ? DEFAULT_VISITOR : visitorOf(named, shape),
    most,
    concern,
    harm,
    tolerance,
  };
}

function visitorOf(text: string, shape: Shape): Visitor {
  try {
    return parseVisitor(text);
  } catch (error) {
    if (error instanceof InputError) throw new InputError(error.what, `${shape.path}.visitor`, error.next);
    throw error;
  }
}

function wordOf(shape: Shape, words: readonly string[], needed = false): string | undefined {
  const word = shape.optionalString();
  if (word === undefined && !needed) return undefined;
  if (word !== undefined && words.includes(word)) return word;
  throw new InputError(
    word === undefined ? 'It is missing.' : `"${word}" is not known.`,
    shape.path,
    `Write one of: ${words.join(', ')}.`,
  );
}
