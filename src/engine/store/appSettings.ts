import { sealerOf } from './sealed';
import type { Store } from './store';

/** The mail server through which notices and reports leave. */
export interface MailServer {
  readonly host: string;
  readonly port: number;
  /** `starttls` insists on it (RFC 3207); `tls` from the first byte; `none` only where nobody listens, as on loopback. */
  readonly security: 'starttls' | 'tls' | 'none';
  readonly user: string;
  readonly password: string;
  /** Sender, as an address. */
  readonly from: string;
}

/** Settings of the application, kept encrypted. */
interface AppSettings {
  readonly mail: MailServer;
  /** Address under which others reach the application, without a slash at its end; links in messages start with it. */
  readonly origin: string;
}

/** A setting of the application; undefined until it is set. */
export async function appSetting<K extends keyof AppSettings>(
  store: Store,
  name: K,
): Promise<AppSettings[K] | undefined> {
  const row = await store.selectFrom('app_settings').select('value').where('name', '=', name).executeTakeFirst();
  return row && (JSON.parse((await sealerOf(store)).open(row.value)) as AppSettings[K]);
}

/** Sets it, or with undefined takes it back. */
export async function saveAppSetting<K extends keyof AppSettings>(
  store: Store,
  name: K,
  value: AppSettings[K] | undefined,
): Promise<void> {
  if (value === undefined) {
    await store.deleteFrom('app_settings').where('name', '=', name).execute();
    return;
  }
  const sealed = (await sealerOf(store)).seal(JSON.stringify(value));
  await store
    .insertInto('app_settings')
    .values({ name, value: sealed })
    .onConflict((c) => c.column('name').doUpdateSet({ value: sealed }))
    .execute();
}
