import { listLanguages } from '../../engine/services/languages';
import { store } from '../../engine/services/openedStore';
import { folderOfStore } from '../../engine/store/location';
import { json, route } from './_answer';

/** Languages that reports can be written in. */
export const GET = route(async () => json(await listLanguages(await folderOfStore(await store()))));
