import { createTheme, type MantineColorsTuple } from '@mantine/core';

/** Ten equal steps: every shade that is used comes from tokens.css, where light and dark stand side by side. */
const flat = (color: string): MantineColorsTuple => {
  const step = (): string => color;
  return [step(), step(), step(), step(), step(), step(), step(), step(), step(), step()];
};

export const theme = createTheme({
  fontFamily: "'Hanken Grotesk Variable', sans-serif",
  fontFamilyMonospace: "'Spline Sans Mono Variable', monospace",
  headings: { fontFamily: "'Bricolage Grotesque Variable', sans-serif" },
  defaultRadius: 2,
  fontSizes: { xs: '11px', sm: '13px', md: '14px', lg: '16px', xl: '20px' },
  colors: { ink: flat('var(--ink)') },
  primaryColor: 'ink',
  autoContrast: false,
  focusRing: 'auto',
  respectReducedMotion: true,
  // By name, so that the theme does not bring the code of every field to the first page.
  components: {
    Button: { defaultProps: { size: 'sm' } },
    Checkbox: { defaultProps: { iconColor: 'var(--on-solid)' } },
    TextInput: { defaultProps: { size: 'xs' } },
    PasswordInput: { defaultProps: { size: 'xs' } },
    NumberInput: { defaultProps: { size: 'xs' } },
  },
});
