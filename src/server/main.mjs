// The server's entry: what was built, from whatever folder it is started in.
await import('../../dist/node/serve.js');
