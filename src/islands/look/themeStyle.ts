import { convertCssVariables, DEFAULT_THEME, defaultCssVariablesResolver, mergeMantineTheme } from '@mantine/core';
import { theme } from './theme';

const OTHER_COLOR = new RegExp(`^--mantine-color-(?:${Object.keys(DEFAULT_THEME.colors).join('|')})-`);

/**
 * The theme as CSS custom properties, once for a whole page: those that differ from Mantine's own sheet
 * (`default-css-variables.css`), without its colours that nothing here uses.
 */
export function themeStyle(): string {
  const byDefault = defaultCssVariablesResolver(DEFAULT_THEME);
  const ours = defaultCssVariablesResolver(mergeMantineTheme(DEFAULT_THEME, theme));
  const differing = (part: 'variables' | 'light' | 'dark') => {
    const known: Readonly<Record<string, string>> = byDefault[part];
    return Object.fromEntries(
      Object.entries(ours[part]).filter(([name, value]) => value !== known[name] && !OTHER_COLOR.test(name)),
    );
  };
  return convertCssVariables(
    { variables: differing('variables'), light: differing('light'), dark: differing('dark') },
    ':root',
  );
}
