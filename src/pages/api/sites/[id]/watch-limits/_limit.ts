import { number, object, string, type InferType } from 'yup';
import { CONCERNS, type Concern, type Harm } from '../../../../../core/checks/concern';
import { parseVisitor } from '../../../../../core/load/visitors';
import { parseScope } from '../../../../../core/plan/plan';
import { checkLimit, WATCHED_FIGURES, type WatchedFigure, type WatchLimit } from '../../../../../core/watch/limits';

/** A limit as it is sent; a scope as in addresses: empty for all pages, `template:NAME` or `page:URL`. */
export const schema = object({
  figure: string()
    .oneOf([...WATCHED_FIGURES])
    .required('Say which figure.'),
  visitor: string().max(200).required('Say for which visitor.'),
  scope: string().max(3000).default(''),
  bound: number().required('State the limit.'),
  tolerance: number().default(0),
  concern: string().oneOf(CONCERNS.map((c) => c.id)),
  harm: string().oneOf(['broken', 'exposed', 'slow', 'tidy']),
});

/** @throws InputError for one that cannot be judged */
export function readLimit(input: InferType<typeof schema>): WatchLimit {
  parseVisitor(input.visitor);
  const limit: WatchLimit = {
    ...input,
    figure: input.figure as WatchedFigure,
    scope: parseScope(input.scope),
    concern: input.concern as Concern | undefined,
    harm: input.harm as Harm | undefined,
  };
  checkLimit(limit);
  return limit;
}
