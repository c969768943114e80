import type { Box } from '../../core/capture/capture';
import type { Finding } from '../../core/checks/finding';
import { isMissing, type MixedPicture } from '../../core/pictures/mixed';
import { getCapture } from '../store/captures';
import type { Store } from '../store/store';
import { boxesOf } from './captureView';

/** The first screen of a page on which something is missing for visitors, and where. */
export interface MissingPlaces {
  readonly captureId: number;
  readonly title: string;
  readonly device: 'phone' | 'desktop';
  readonly screenshotHash: string | null;
  /** Width and height of the screen in CSS pixels. */
  readonly screen: readonly [number, number];
  /** What is missing; without a box where it has no place of its own. */
  readonly places: readonly { readonly finding: string; readonly url: string; readonly box?: Box }[];
}

/** Pages whose places are looked up: the worst ones. */
const MOST_PAGES = 6;

/** Where on their pages lies what browsers refuse. */
export async function missingPlaces(
  store: Store,
  { pages }: MixedPicture,
  findings: ReadonlyMap<number, readonly Finding[]>,
): Promise<MissingPlaces[]> {
  const out: MissingPlaces[] = [];
  for (const { captureId, cells } of pages) {
    const items = cells.flatMap((c) => c.items.filter(isMissing));
    const full = items.length > 0 && (await getCapture(store, captureId));
    if (!full) continue;
    const boxes = boxesOf(full.capture);
    const paths = new Map(findings.get(captureId)?.map((f) => [f.id, f.evidence.path]));
    out.push({
      captureId,
      title: full.row.title,
      device: full.row.device,
      screenshotHash: full.row.screenshotHash,
      screen: [full.capture.conditions.screenWidth, full.capture.conditions.screenHeight],
      places: items.map(({ finding, url }) => {
        const box = boxes[paths.get(finding) ?? ''];
        return { finding, url, ...(box && box.width > 0 && box.height > 0 && { box }) };
      }),
    });
    if (out.length === MOST_PAGES) break;
  }
  return out;
}
