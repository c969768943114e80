import { InputError } from '../../core/capture/errors';
import { parseVisitor, visitorSpec, VISITORS } from '../../core/load/visitors';
import type { Store } from './store';

/** A visitor that users have made up. */
export interface OwnVisitor {
  readonly id: number;
  readonly name: string;
  /** As `parseVisitor` reads it. */
  readonly spec: string;
}

/** All of them, by name. */
export function listVisitors(store: Store): Promise<OwnVisitor[]> {
  return store.selectFrom('visitors').select(['id', 'name', 'spec']).orderBy('name').execute();
}

/** Saves a visitor. @throws InputError when the spec is wrong or the name taken. */
export async function addVisitor(store: Store, value: Omit<OwnVisitor, 'id'>): Promise<OwnVisitor> {
  const row = await store
    .insertInto('visitors')
    .values(await checked(store, value))
    .returning(['id', 'name', 'spec'])
    .executeTakeFirstOrThrow();
  return row;
}

/** Changes a visitor; undefined when there is none. @throws InputError */
export async function changeVisitor(
  store: Store,
  id: number,
  value: Omit<OwnVisitor, 'id'>,
): Promise<OwnVisitor | undefined> {
  return store
    .updateTable('visitors')
    .set(await checked(store, value, id))
    .where('id', '=', id)
    .returning(['id', 'name', 'spec'])
    .executeTakeFirst();
}

/** Deletes a visitor; false when there is none. */
export async function removeVisitor(store: Store, id: number): Promise<boolean> {
  const result = await store.deleteFrom('visitors').where('id', '=', id).executeTakeFirst();
  return result.numDeletedRows > 0n;
}

async function checked(store: Store, { name, spec }: Omit<OwnVisitor, 'id'>, own = 0) {
  const visitor = parseVisitor(spec);
  const builtIn = VISITORS.some((v) => v.name.toLowerCase() === name.toLowerCase() || v.id === name.toLowerCase());
  const other = await store
    .selectFrom('visitors')
    .select('id')
    .where('name', '=', name)
    .where('id', '!=', own)
    .executeTakeFirst();
  if (builtIn || other)
    throw new InputError(`There is a visitor "${name}" already.`, 'name', 'Give this one another name.');
  return { name, spec: visitorSpec(visitor) };
}
