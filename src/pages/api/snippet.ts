import { PAGE_SNIPPET } from '../../engine/record/pageSnippet';
import { json, route } from './_answer';

/** The script for the console of any browser, as a JSON string. */
export const GET = route(() => Promise.resolve(json(PAGE_SNIPPET)));
