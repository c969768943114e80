import type { Account } from '../../engine/store/people/accounts';
import { HomeBar } from '../frame/HomeBar';
import { island } from '../frame/island';
import { ME, type Me } from '../frame/AccountMenu';
import { useResource } from '../state/api';
import { count } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { AccountsView } from './AccountsView';
import { ChangesView } from './ChangesView';
import { OwnPassword } from './OwnPassword';
import { ACCOUNTS } from './peoplePaths';
import { TokensView } from './TokensView';

/** Who may log in and do what, tokens, and who changed what. */
function PeopleScreen() {
  const me = useResource<Me>(ME);
  const isAdministrator = me.value?.roles?.everywhere === 'administrator';
  const accounts = useResource<readonly Account[]>(isAdministrator ? ACCOUNTS : undefined);
  return (
    <>
      <HomeBar />
      <main id="main" tabIndex={-1} className="home">
        <h1 className="serif">People</h1>
        {me.value && <p className="serif-text lead">{sentenceOf(me.value, accounts.value)}</p>}
        {me.error && <ErrorBox error={me.error} retry={me.reload} />}
        {!me.value && me.loading && <Loading what="Reading accounts" />}
        {isAdministrator && <AccountsView accounts={accounts} first={me.value?.account === null} />}
        {me.value?.account?.hasPassword && <OwnPassword />}
        {me.value && <TokensView mayRecord={isAdministrator} />}
        {isAdministrator && me.value?.account && <ChangesView />}
      </main>
    </>
  );
}

function sentenceOf(me: Me, accounts: readonly Account[] | undefined): string {
  if (!me.account)
    return 'Nobody has an account: whoever reaches this server may do everything. With the first account, everybody needs one.';
  if (!accounts) return `You are logged in as ${me.account.name}.`;
  const admins = accounts.filter((a) => a.everywhere === 'administrator' && !a.disabledAt).length;
  return `${count(accounts.length, 'person has an account', 'people have accounts')}, ${count(admins, 'administrator')} among them.`;
}

export default island(PeopleScreen);
