import type { Role } from '../../core/people/roles';

/**
 * What a request needs: nothing (`open`), to be somebody (`somebody`), a recorder's token (`recorder`), or a role: on the
 * site that the address leads to, else on all sites.
 */
export type Need = 'open' | 'somebody' | 'recorder' | Role;

/** What a request needs and, for changes, what it does in words. */
export interface Rule {
  readonly need: Need;
  readonly says?: string;
}

type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
type Line = readonly [methods: string, pattern: string, need: Need, says?: string];

/**
 * Rules by address; the first that fits counts. `*` stands for one part of a path, `**` for all that follows. What no line
 * names needs an owner's role to read and an auditor's to change on the site that it leads to; what leads to no site needs
 * an administrator.
 */
const LINES: readonly Line[] = [
  ['GET', '/api/health', 'open'],
  ['GET POST', '/login', 'open'],
  ['POST', '/logout', 'open'],
  ['GET', '/shared/*', 'open'],
  ['GET', '/', 'somebody'],
  ['GET', '/people', 'somebody'],
  ['GET', '/recorders', 'somebody'],
  ['GET', '/api/me', 'somebody'],
  ['PUT', '/api/me', 'somebody', 'changed their password'],
  ['GET', '/api/checks', 'somebody'],
  ['GET', '/api/sites', 'somebody'],
  ['POST', '/api/sites', 'auditor', 'added a site'],
  ['GET', '/api/disk', 'somebody'],
  ['GET', '/api/languages', 'somebody'],
  ['GET', '/api/snippet', 'somebody'],
  ['GET', '/api/jobs', 'somebody'],
  ['GET', '/api/jobs/events', 'somebody'],
  ['GET', '/api/visitors', 'somebody'],
  ['POST', '/api/visitors', 'auditor', 'added a visitor'],
  ['PUT', '/api/visitors/*', 'auditor', 'changed a visitor'],
  ['DELETE', '/api/visitors/*', 'auditor', 'deleted a visitor'],
  ['POST', '/api/demo', 'auditor', 'started the demo'],
  ['GET', '/api/tokens', 'somebody'],
  ['POST', '/api/tokens', 'somebody', 'made a token'],
  ['DELETE', '/api/tokens/*', 'somebody', 'deleted a token'],
  ['POST', '/api/recorders/beat', 'recorder'],
  ['GET PUT POST', '/api/recorders/work/*', 'recorder'],
  ['GET PUT POST', '/api/recorders/tasks/*', 'recorder'],
  ['GET', '/api/recorders', 'somebody'],
  ['DELETE', '/api/recorders/*', 'administrator', 'removed a recorder'],
  ['GET', '/api/accounts', 'administrator'],
  ['POST', '/api/accounts', 'administrator', 'made an account'],
  ['PATCH', '/api/accounts/*', 'administrator', 'changed an account'],
  ['DELETE', '/api/accounts/*', 'administrator', 'deleted an account'],
  ['GET', '/api/audit', 'administrator'],
  ['GET', '/api/settings/mail', 'administrator'],
  ['PUT', '/api/settings/mail', 'administrator', 'changed the mail server'],
  ['POST', '/api/settings/mail', 'administrator', 'sent a test message'],
  ['DELETE', '/api/settings/mail', 'administrator', 'removed the mail server'],
  ['POST', '/api/captures', 'auditor', 'imported a capture file'],
  ['POST', '/api/captures/*/forecast', 'owner'],
  ['GET', '/api/sites/*/settings', 'auditor'],
  ['PUT', '/api/sites/*/settings', 'auditor', 'changed the settings of the sweep'],
  ['GET', '/api/sites/*/notify', 'auditor'],
  ['PUT', '/api/sites/*/notify', 'auditor', 'changed where notices go'],
  ['POST', '/api/sites/*/notify', 'auditor', 'sent a test notice'],
  ['GET', '/api/sites/*/shares', 'auditor'],
  ['POST', '/api/sites/*/shares', 'auditor', 'shared a report by link'],
  ['DELETE', '/api/sites/*/shares/*', 'auditor', 'took a shared link back'],
  ['PUT', '/api/sites/*/notices', 'owner'],
  ['PUT', '/api/sites/*/plans/*', 'fixer', 'changed a plan'],
  ['POST', '/api/sites/*/plans', 'auditor', 'saved a plan'],
  ['DELETE', '/api/sites/*/plans/*', 'auditor', 'deleted a plan'],
  ['POST', '/api/sites/*/plans/*/outcomes', 'fixer', 'had done fixes looked at'],
  ['PUT', '/api/sites/*/move', 'fixer', 'noted a step of the move'],
  ['POST', '/api/sites/*/move/files', 'auditor', 'had files of the site moved to https'],
  ['POST', '/api/sites/*/rules', 'owner'],
  ['POST', '/api/sites/*/sweeps', 'auditor', 'started a sweep'],
  ['POST', '/api/sites/*/recordings', 'auditor', 'had pages recorded'],
  ['POST', '/api/sites/*/entrances', 'auditor', 'had entrances probed'],
  ['POST', '/api/sites/*/proofs', 'auditor', 'started a proof'],
  ['POST', '/api/sites/*/changes', 'auditor', 'had watched pages visited'],
  ['POST', '/api/sites/*/mutes', 'auditor', 'muted a cause'],
  ['DELETE', '/api/sites/*/mutes/*', 'auditor', 'took a mute back'],
  ['PUT', '/api/sites/*/limits', 'auditor', 'changed limits of checks'],
  ['PUT', '/api/sites/*/look', 'auditor', 'changed the look of reports'],
  ['POST', '/api/sites/*/report/mail', 'auditor', 'sent a report by mail'],
  ['POST', '/api/sites/*/field', 'auditor', 'added field data'],
  ['DELETE', '/api/sites/*/field/*', 'auditor', 'removed field data'],
  ['POST', '/api/sites/*/lists', 'auditor', 'added a list of addresses'],
  ['POST', '/api/sites/*/lists/*', 'auditor', 'had a list of addresses asked for'],
  ['DELETE', '/api/sites/*/lists/*', 'auditor', 'removed a list of addresses'],
  ['POST', '/api/sites/*/schedules', 'auditor', 'added a schedule'],
  ['PUT', '/api/sites/*/schedules/*', 'auditor', 'changed a schedule'],
  ['DELETE', '/api/sites/*/schedules/*', 'auditor', 'removed a schedule'],
  ['POST', '/api/sites/*/schedules/*/start', 'auditor', 'started what is scheduled'],
  ['POST', '/api/sites/*/watch-limits', 'auditor', 'added a limit of the watch'],
  ['PUT', '/api/sites/*/watch-limits/*', 'auditor', 'changed a limit of the watch'],
  ['DELETE', '/api/sites/*/watch-limits/*', 'auditor', 'removed a limit of the watch'],
  ['POST', '/api/sites/*/watched-pages', 'auditor', 'watched a page'],
  ['PUT', '/api/sites/*/watched-pages/*', 'auditor', 'changed how a page is watched'],
  ['DELETE', '/api/sites/*/watched-pages/*', 'auditor', 'watched a page no more'],
  ['PATCH', '/api/sites/*', 'auditor', 'changed a site'],
  ['DELETE', '/api/sites/*', 'auditor', 'deleted a site'],
  ['DELETE', '/api/proofs/*', 'auditor', 'deleted a proof'],
  ['POST', '/api/jobs/*', 'auditor', 'paused, resumed, cancelled or retried a job'],
  ['DELETE', '/api/jobs/*', 'auditor', 'removed a job from the list'],
  ['GET', '/sites/**', 'owner'],
  ['GET', '/api/sites/**', 'owner'],
  ['GET', '/api/sweeps/**', 'owner'],
  ['GET', '/api/pages/*', 'owner'],
  ['GET', '/api/captures/**', 'owner'],
  ['GET', '/api/proofs/**', 'owner'],
  ['GET', '/api/jobs/**', 'owner'],
  // Named by the hash of its content: only who has seen it, or has it, can ask for it.
  ['GET', '/api/bodies/*', 'somebody'],
];

const RULES = LINES.flatMap(([methods, pattern, need, says]) =>
  methods.split(' ').map((method) => ({ method: method as Method, matches: matcher(pattern), rule: { need, says } })),
);

function matcher(pattern: string): RegExp {
  const parts = pattern.replace('/**', '(/.*)?').replace(/\/\*/g, '/[^/]+');
  return new RegExp(`^${parts}/?$`);
}

/** The rule of a request, which the table may not name. */
export function ruleOf(method: string, path: string): Rule & { readonly named: boolean } {
  const asked = method === 'HEAD' || method === 'OPTIONS' ? 'GET' : method;
  const found = RULES.find((r) => r.method === asked && r.matches.test(path));
  return found ? { ...found.rule, named: true } : { need: 'administrator', named: false };
}
