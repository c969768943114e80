import { array, object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../../core/load/visitors';
import { FIX_STATES, parseScope, scopeText, type FixState } from '../../../../../core/plan/plan';
import type { PlanContent } from '../../../../../engine/store/plans';

/** What a plan is saved from. */
export const planSchema = object({
  name: string().trim().max(120).required('Give the plan a name.'),
  visitor: string().max(200).default(DEFAULT_VISITOR.id),
  scope: string().max(2000).default(''),
  fixes: array(
    object({
      group: string().max(500).required('A fix of the plan has no group.'),
      title: string().max(500).required('A fix of the plan has no title.'),
      owner: string().trim().max(120).default(''),
      due: string()
        .matches(/^(\d{4}-\d{2}-\d{2})?$/, 'A due date is written as YYYY-MM-DD.')
        .default(''),
      state: string()
        .oneOf(
          FIX_STATES.map((s) => s.id),
          `A state is one of ${FIX_STATES.map((s) => s.id).join(', ')}.`,
        )
        .default('open'),
    }),
  )
    .max(200)
    .required('A plan has fixes.'),
});

/** The content of a checked request. @throws InputError for a wrong visitor */
export function planContent(value: {
  name: string;
  visitor: string;
  scope: string;
  fixes: readonly { group: string; title: string; owner: string; due: string; state: string }[];
}): PlanContent {
  return {
    name: value.name,
    visitor: parseVisitor(value.visitor).id,
    scope: scopeText(parseScope(value.scope)),
    fixes: value.fixes.map((f) => ({ ...f, state: f.state as FixState })),
  };
}
