import { useResource } from '../state/api';
import { To } from '../ui/To';

/** Whoever is logged in, as `/api/me` tells. */
export interface Me {
  readonly account: { readonly id: number; readonly name: string; readonly hasPassword: boolean } | null;
  readonly roles: { readonly everywhere?: string } | null;
}

export const ME = '/api/me';

/** The account at hand, and the way out; nothing where nobody needs one. */
export function AccountMenu() {
  const { account } = useResource<Me>(ME).value ?? { account: null };
  if (!account) return null;
  return (
    <>
      <To className="pick" to="/people" title={`Your account, ${account.name}`}>
        <span className="account">{account.name}</span>
      </To>
      {/* A plain form: what is shown belongs to the session, so the whole page goes. */}
      <form method="post" action="/logout" data-astro-reload>
        <button className="pick">Log out</button>
      </form>
    </>
  );
}
