import { dataFolder, openStore, type Store } from '../store/store';

let opened: Promise<Store> | undefined;

/** The one database of this process, opened on first use. */
export function store(): Promise<Store> {
  opened ??= openStore(dataFolder()).catch((error: unknown) => {
    opened = undefined;
    throw error;
  });
  return opened;
}
