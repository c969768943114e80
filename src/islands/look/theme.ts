import { createTheme } from '@mantine/core';

/** Fonts, radii and the main colour of Mantine's components; the look of everything else is in `tokens.css`. */
export const theme = createTheme({
  fontFamily: '"Public Sans Variable", "Liberation Sans", sans-serif',
  fontFamilyMonospace: '"IBM Plex Mono", "Liberation Mono", monospace',
  primaryColor: 'ink',
  primaryShade: { light: 8, dark: 2 },
  colors: {
    ink: ['#f4f2ee', '#e4e0d8', '#cfd4d2', '#a9b0b0', '#848d8f', '#5d6567', '#4a5254', '#363e40', '#22292b', '#161b1c'],
  },
  defaultRadius: 6,
});
