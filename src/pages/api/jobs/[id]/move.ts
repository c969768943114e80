import fs from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import { object, string } from 'yup';
import type { MoveReport } from '../../../../engine/services/moveFiles';
import { MOVE_RESULTS, moveFolder } from '../../../../engine/services/runMove';
import { store } from '../../../../engine/services/openedStore';
import { findJob, jobResult } from '../../../../engine/store/jobs';
import { idOf, json, notFound, query, route } from '../../_answer';

const schema = object({ file: string().oneOf([...MOVE_RESULTS]) });

/** What a dry run found or a move has done; with `file` its changed copy, diff or undo map. */
export const GET = route(async (context) => {
  const db = await store();
  const job = await findJob(db, idOf(context));
  const report = job?.kind === 'move' ? await jobResult<MoveReport & { fileName: string }>(db, job.id) : undefined;
  if (!job || !report) return notFound('There is no such result.', context.url.pathname);
  const { file } = query(context, schema);
  if (!file) return json(report);
  const at = path.join(await moveFolder(db, job.id), file);
  if (!fs.existsSync(at)) return notFound('There is no such file any more.', context.url.pathname);
  const plain = report.fileName.replace(/\.gz$/i, '');
  const name = { copy: `https-${plain}`, patch: `${plain}.diff`, undo: `${plain}.undo.jsonl` }[file];
  return new Response(Readable.toWeb(fs.createReadStream(at)) as ReadableStream, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      'content-length': String(fs.statSync(at).size),
      'cache-control': 'no-store',
    },
  });
});
