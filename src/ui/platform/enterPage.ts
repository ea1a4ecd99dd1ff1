/** The page that asks who comes from another machine for the secret. It is alone: nothing else is served before. `fault` is said above the field. */
export const enterPage = (
  fault: string | null,
): string => `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Sort Shelf</title><style>
body{margin:0;min-height:100vh;display:grid;place-items:center;background:#f3ede0;color:#1e2733;font:16px/1.5 system-ui,sans-serif}
main{width:min(26rem,calc(100vw - 3rem));background:#fffdf8;border:1px solid #d9cfbc;border-radius:6px;padding:2rem}
h1{font-size:1.4rem;margin:0 0 .5rem}p{margin:0 0 1rem}label{display:block;font-weight:700;margin-bottom:.25rem}
input{box-sizing:border-box;width:100%;font:1.1rem ui-monospace,monospace;padding:.6rem;border:1px solid #5b6470;border-radius:4px}
button{margin-top:1rem;font:inherit;font-weight:700;padding:.6rem 1.2rem;border:0;border-radius:4px;background:#2c5872;color:#fffdf8}.fault{color:#a8442a;font-weight:700}
</style></head><body><main><h1>Sort Shelf</h1>${fault === null ? '' : `<p class="fault" role="alert">${fault}</p>`}<p>This Sort Shelf can be reached from other machines. Give the secret that was printed where it was started.</p>
<form method="post" action="/enter"><label for="secret">Secret</label><input id="secret" name="secret" autocomplete="off" autocapitalize="characters" spellcheck="false" autofocus required><button type="submit">Enter</button></form></main></body></html>`;

/** What leads on from it, once the secret was right. */
export const ENTERED =
  '<!doctype html><html lang="en"><head><meta charset="utf-8"><meta http-equiv="refresh" content="0; url=/"><title>Sort Shelf</title></head><body><a href="/">Go on</a></body></html>';
