import { boolean, object, string, type InferType } from 'yup';
import { checkSchedule, SCHEDULED, type Schedule } from '../../../../../core/watch/schedule';

/** A schedule as it is sent. */
export const schema = object({
  what: string()
    .oneOf([...SCHEDULED])
    .required('Say what is to be done.'),
  cron: string().trim().max(100).required('Say when.'),
  zone: string().trim().max(60).required('Name a time zone.'),
  quiet: object({ from: string().required(), to: string().required() }).nullable().default(null),
  on: boolean().default(true),
});

/** @throws InputError for one that means nothing */
export function readSchedule(input: InferType<typeof schema>): Schedule {
  const schedule: Schedule = { ...input, what: input.what, quiet: input.quiet ?? undefined };
  checkSchedule(schedule);
  return schedule;
}
