import { object, string } from 'yup';
import { store } from '../../../../../engine/services/openedStore';
import { addMute, listMutes, type MuteScope } from '../../../../../engine/store/mutes';
import { findSite } from '../../../../../engine/store/sites';
import { body, idOf, json, notFound, route } from '../../../_answer';

const schema = object({
  scope: string().oneOf(['check', 'cause', 'finding']).required('Say what is to be muted: check, cause or finding.'),
  value: string().max(200).required('Say which one.'),
  check: string().max(60).required('Name the check.'),
  title: string().max(500).required('Give it a name.'),
  reason: string().trim().max(500).required('Say why it is muted: whoever looks later wants to know.'),
});

/** What a site has muted, with the reasons. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listMutes(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Mutes a check, a cause or a finding. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const mute = await body(context, schema);
  return json(await addMute(db, site.id, { ...mute, scope: mute.scope as MuteScope }), 201);
});
