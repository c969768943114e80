/**
 * Packages of many small files that the build takes into its own: Node reads each file of a package by itself, which took a
 * started server two seconds. All others stay where they are: programs, and what reads files beside itself.
 */
export const BUNDLED = [
  '@mantine/core',
  '@mantine/hooks',
  '@mantine/spotlight',
  '@mantine/store',
  '@tanstack/query-core',
  '@tanstack/react-query',
  '@tanstack/react-virtual',
  '@tanstack/virtual-core',
  'css-select',
  'css-tree',
  'css-what',
  'diff',
  'dom-serializer',
  'domhandler',
  'domutils',
  'entities',
  'image-size',
  'kysely',
  'nth-check',
  'parse5',
  'react-textarea-autosize',
  'zustand',
];

/** These come in one file as well, with the data that they read from files otherwise. */
export const ONE_FILE = { 'css-tree': 'css-tree/dist/csstree.esm' };

/** The same for esbuild. */
export const packages = {
  name: 'packages',
  setup(build) {
    build.onResolve({ filter: /^[^./]/ }, ({ path: name, kind }) => {
      if (kind === 'entry-point') return undefined;
      const own = /^(@[^/]+\/)?[^/]+/.exec(name)?.[0];
      return BUNDLED.includes(own) ? undefined : { path: name, external: true };
    });
  },
};
