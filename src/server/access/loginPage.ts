/** What stands on the page. */
interface Login {
  readonly to: string;
  readonly status: number;
  readonly name?: string;
  readonly fault?: string;
  readonly waitS?: number;
}

const safe = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

const STYLE = `
  :root { color-scheme: light dark; --paper: #faf7f1; --sheet: #fffdf9; --line: #ddd5c6; --ink: #22292b; --soft: #5a6264; --cost: #a6491f; --gain: #0b6a66 }
  @media (prefers-color-scheme: dark) { :root { --paper: #1b1f1f; --sheet: #222727; --line: #3b4140; --ink: #ece7dc; --soft: #aeb0a9; --cost: #e3946b; --gain: #5cc2b8 } }
  body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: var(--paper); color: var(--ink); font: 16px/1.5 "Liberation Sans", system-ui, sans-serif }
  main { box-sizing: border-box; width: min(22rem, calc(100vw - 2rem)); background: var(--sheet); border: 1px solid var(--line); border-radius: 8px; padding: 1.6rem 1.8rem 1.8rem }
  h1 { font: 600 1.5rem/1.2 "Liberation Serif", Georgia, serif; margin: 0 0 .2rem }
  p { margin: 0 0 1.1rem; color: var(--soft) } p[role=alert] { color: var(--cost) }
  label { display: block; font-weight: 600; margin-bottom: .9rem }
  input { display: block; box-sizing: border-box; width: 100%; margin-top: .25rem; padding: .5rem .6rem; font: inherit; color: inherit; background: var(--paper); border: 1px solid var(--line); border-radius: 6px }
  button { margin-top: .4rem; padding: .55rem 1.1rem; font: inherit; font-weight: 600; color: var(--sheet); background: var(--ink); border: 0; border-radius: 6px; cursor: pointer }
  :focus-visible { outline: 2px solid var(--gain); outline-offset: 2px }
`;

/** The page on which somebody says who they are; it needs no script. */
export function loginPage({ to, status, name = '', fault, waitS }: Login): Response {
  return new Response(
    `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="referrer" content="same-origin"><title>Log in - Keen Lens</title><link rel="icon" href="/lens.svg"><style>${STYLE}</style></head><body><main>
<h1>Keen Lens</h1><p>Log in to see your sites.</p>
${fault === undefined ? '' : `<p role="alert">${safe(fault)}</p>`}
<form method="post" action="/login"><input type="hidden" name="to" value="${safe(to)}">
<label>Name<input name="name" autocomplete="username" autocapitalize="none" spellcheck="false" required maxlength="64" value="${safe(name)}"${name ? '' : ' autofocus'}></label>
<label>Password<input name="password" type="password" autocomplete="current-password" required maxlength="200"${name ? ' autofocus' : ''}></label>
<button>Log in</button></form></main></body></html>`,
    {
      status,
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'cache-control': 'no-store',
        ...(waitS ? { 'retry-after': String(waitS) } : {}),
      },
    },
  );
}
