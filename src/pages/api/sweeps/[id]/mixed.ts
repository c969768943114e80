import { object, string } from 'yup';
import type { Device } from '../../../../core/capture/capture';
import { mixedPicture } from '../../../../core/pictures/mixed';
import { deviceIn, listCaptures } from '../../../../engine/store/captures';
import { missingPlaces } from '../../../../engine/services/missingPlaces';
import { findingsOfCaptures } from '../../../../engine/store/findings';
import { lastProbe } from '../../../../engine/store/probes';
import type { MixedAnswer } from '../../../../islands/mixed/mixedPath';
import { json, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';

/** Mixed content of a sweep's recorded pages, by page and insecure host. */
export const GET = sweepRoute(async (context, db, sweep) => {
  const wanted = query(context, object({ device: string().oneOf(['phone', 'desktop']).default('phone') }))
    .device as Device;
  const rows = await listCaptures(db, sweep.id, await deviceIn(db, sweep.id, wanted));
  const findings = await findingsOfCaptures(
    db,
    rows.map((r) => r.id),
    'mixed',
  );
  const probe = await lastProbe(db, sweep.siteId);
  const versions = new Map((probe?.versions ?? []).map((v) => [v.url, v]));
  const picture = mixedPicture(
    rows.map((r) => ({ captureId: r.id, page: r.page, findings: findings.get(r.id) ?? [] })),
    versions,
  );
  return json({ ...picture, missing: await missingPlaces(db, picture, findings) } satisfies MixedAnswer);
});
