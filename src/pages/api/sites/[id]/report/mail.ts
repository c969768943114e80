import { array, number, object, string } from 'yup';
import { InputError } from '../../../../../core/capture/errors';
import { READERS } from '../../../../../core/handover/report/facts';
import { FORMATS, FORMATS_OF } from '../../../../../core/handover/report/formats';
import { DEFAULT_VISITOR, parseVisitor, visitorSpec } from '../../../../../core/load/visitors';
import { appSetting } from '../../../../../engine/store/appSettings';
import { store } from '../../../../../engine/services/openedStore';
import { reportInThread } from '../../../../../engine/services/reportInThread';
import { findSite } from '../../../../../engine/store/sites';
import { sendMail } from '../../../../../engine/watch/mail';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { REPORT_TYPES } from '../_reportTypes';

const schema = object({
  to: array(string().trim().email('This is no mail address.').max(200).required())
    .min(1)
    .max(20)
    .required('Say to whom.'),
  reader: string()
    .oneOf([...READERS])
    .required('Say for whom the report is.'),
  format: string()
    .oneOf([...FORMATS])
    .required('Say as what it comes.'),
  visitor: string().default(DEFAULT_VISITOR.id),
  sweep: number().integer().min(1),
  text: string().max(5000).default(''),
});

/** Sends a report by mail, as a file. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const input = await body(context, schema);
  if (!FORMATS_OF[input.reader].includes(input.format))
    throw new InputError(
      `The report for the ${input.reader} does not come as ${input.format}.`,
      'format',
      'Choose another.',
    );
  const server = await appSetting(db, 'mail');
  if (!server) throw new InputError('No mail server is set.', 'settings', 'Set one under Watch, Where notices go.');
  const { bytes, day } = await reportInThread(db, {
    siteId: site.id,
    sweepId: input.sweep,
    reader: input.reader,
    format: input.format,
    visitor: visitorSpec(parseVisitor(input.visitor)),
  });
  await sendMail(server, {
    to: input.to,
    subject: `${site.name}: report of ${day}`,
    text: input.text || `The report about ${site.name} of ${day} is attached.\n`,
    attachments: [
      { filename: `${input.reader}-${day}.${input.format}`, content: bytes, type: REPORT_TYPES[input.format] },
    ],
  });
  return json({ sentTo: input.to, bytes: bytes.length });
});
