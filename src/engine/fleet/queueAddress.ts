import { nameOfStore } from '../store/sealed';
import type { Store } from '../store/store';

/** Where the queue of recorders lives, as `KEEN_LENS_QUEUE` says; undefined where recordings are made by this process. */
export const queueAddress = (): string | undefined => process.env.KEEN_LENS_QUEUE || undefined;

/** The name of a server's queue: two servers may share one Redis. */
export const queueNameOf = async (store: Store): Promise<string> => `keen-lens-${await nameOfStore(store)}`;
