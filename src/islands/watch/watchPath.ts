import type { JobRow } from '../../engine/store/jobs';
import type { DeliveryRow } from '../../engine/store/watch/deliveries';
import type { LimitResultRow, WatchLimitRow } from '../../engine/store/watch/limits';
import type { NoticeRow, NotifySettings } from '../../engine/store/watch/notices';
import type { ScheduleRow } from '../../engine/store/watch/schedules';
import type { PageVisit, WatchedPage } from '../../engine/store/watch/watchedPages';

/** Everything about the watch of a site, as the API answers it. */
export interface WatchAnswer {
  readonly schedules: readonly (ScheduleRow & { readonly nextStart: string | null; readonly job: JobRow | null })[];
  readonly limits: readonly (WatchLimitRow & { readonly results: readonly LimitResultRow[] })[];
  readonly pages: readonly WatchedPage[];
  readonly visits: readonly PageVisit[];
  readonly notices: readonly NoticeRow[];
  readonly unread: number;
  readonly notify: NotifySettings;
  readonly deliveries: readonly DeliveryRow[];
  readonly hasMailServer: boolean;
}

export const watchPath = (siteId: number): string => `/api/sites/${siteId}/watch`;

/** Where the history of a figure is asked for, from the parameters of the screen's address. */
export function historyPath(siteId: number, visitor: string, query: URLSearchParams): string {
  const asked = new URLSearchParams({ figure: query.get('figure') ?? 'lcpMs', visitor });
  for (const name of ['pages', 'concern', 'harm'])
    if (query.get(name)) asked.set(name === 'pages' ? 'scope' : name, query.get(name) ?? '');
  return `/api/sites/${siteId}/history?${asked.toString()}`;
}
