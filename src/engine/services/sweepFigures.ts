import type { Concern, Harm } from '../../core/checks/concern';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import type { PageFigures } from '../../core/watch/figures';
import { figuresOf } from '../../core/watch/simulatedFigures';
import { codeStamp } from '../codeStamp';
import { findingsWhere } from '../store/findings';
import { keepOnce, readKept } from '../store/kept';
import type { Store } from '../store/store';
import { benchPages } from './benchPages';

const nameFor = (visitor: Visitor) => `figures ${visitor.id} ${codeStamp()}`;

/** Those figures if they have been made. */
export function keptFigures(store: Store, sweepId: number, visitor: Visitor): Promise<PageFigures[] | undefined> {
  return readKept(store, sweepId, nameFor(visitor));
}

/** The figures of a sweep's recorded pages for a visitor; worked out once. Takes about 30 ms a page. */
export async function sweepFigures(store: Store, sweepId: number, visitor: Visitor): Promise<readonly PageFigures[]> {
  const make = async (): Promise<PageFigures[]> => {
    const { device, pages } = await benchPages(store, sweepId, deviceOf(visitor));
    const counts = await findingsWhere(store, { sweepId, device })
      .select((e) => [
        'findings.capture_id as captureId',
        'findings.concern',
        'findings.harm',
        e.fn.countAll<number>().as('count'),
      ])
      .groupBy(['findings.capture_id', 'findings.concern', 'findings.harm'])
      .execute();
    return pages.map(({ row, graph, template }) => ({
      captureId: row.id,
      page: row.page,
      template: template?.name,
      ...figuresOf(graph, visitor),
      findings: counts
        .filter((c) => c.captureId === row.id)
        .map((c) => ({ concern: c.concern as Concern, harm: c.harm as Harm, count: c.count })),
    }));
  };
  return (await keepOnce(store, sweepId, nameFor(visitor), make)) ?? [];
}
