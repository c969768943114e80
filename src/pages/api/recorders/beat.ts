import { array, boolean, number, object, string } from 'yup';
import { VERSION } from '../../../core/version';
import { queueNameOf } from '../../../engine/fleet/queueAddress';
import type { BeatAnswer } from '../../../engine/fleet/serverCalls';
import { store } from '../../../engine/services/openedStore';
import { beatRecorder } from '../../../engine/store/fleet/recorders';
import { body, json, route } from '../_answer';
import { recorderOf } from './_recorder';

const text = () => string().max(200).default('');
const schema = object({
  facts: object({
    version: text(),
    chromium: text(),
    region: text(),
    rootLink: boolean().default(false),
    slots: number().integer().min(1).max(64).default(1),
    busy: array(string().max(2000).required()).max(64).default([]),
    perMinute: number().min(0).default(0),
    startedAt: number().min(0).default(0),
    ending: boolean().default(false),
  }).required(),
});

/** Takes a recorder's sign of life, and tells it where the queue is. */
export const POST = route(async (context) => {
  const { tokenId, name } = recorderOf(context);
  const { facts } = await body(context, schema);
  const db = await store();
  await beatRecorder(db, tokenId, name, facts);
  return json({ queue: await queueNameOf(db), version: VERSION } satisfies BeatAnswer);
});
