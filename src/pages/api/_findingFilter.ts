import { object, string, type InferType } from 'yup';
import type { FindingFilter } from '../../engine/store/findings';
import { CONCERNS } from '../../core/checks/concern';

/** Query parameters that narrow a list of findings. */
export const filterFields = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  concern: string().oneOf(CONCERNS.map((c) => c.id)),
  harm: string().matches(/^(broken|exposed|slow|tidy)(,(broken|exposed|slow|tidy))*$/, {
    message: 'harm is one of broken, exposed, slow, tidy, or several with commas',
    excludeEmptyString: true,
  }),
  check: string().max(60),
  cause: string().max(100),
  folder: string().max(300),
  template: string().max(100),
  host: string().max(253),
  search: string().max(200),
  /** Key of a group of fixes: only what it removes. */
  fix: string().max(20),
  muted: string().oneOf(['no', 'only', 'all']).default('no'),
});

/** The filter that query parameters stand for. */
export function filterOf(q: InferType<typeof filterFields>): Omit<FindingFilter, 'sweepId' | 'device'> {
  const { concern, harm, check, cause, folder, template, host, search } = q;
  return { concern, harm, check, cause, folder, template, host, search, muted: q.muted as FindingFilter['muted'] };
}
