import { createTheme } from '@mui/material/styles';

/** Colours of the reading room, and of the same room by lamp light. Contrast of text on its ground is 4.5:1 or more. */
const LIGHT = {
  ground: '#F3EDE0',
  paper: '#FFFDF8',
  ink: '#1E2733',
  soft: '#5B6470',
  rule: '#D9CFBC',
  board: '#B9A37C',
  label: '#E9DFCB',
  brick: '#A8442A',
  moss: '#4F6F3A',
  ochre: '#B9821F',
  ochreText: '#8A5F10',
  harbour: '#2C5872',
};
const DARK = {
  ground: '#171C23',
  paper: '#212832',
  ink: '#ECE6DA',
  soft: '#A9AFB8',
  rule: '#3A4350',
  board: '#6E5F45',
  label: '#2C3440',
  brick: '#E58A70',
  moss: '#9DC382',
  ochre: '#D9A441',
  ochreText: '#E3B45C',
  harbour: '#8DBAD3',
};

const palette = (c: typeof LIGHT) => ({
  primary: { main: c.harbour },
  error: { main: c.brick },
  success: { main: c.moss },
  warning: { main: c.ochre },
  background: { default: c.ground, paper: c.paper },
  text: { primary: c.ink, secondary: c.soft },
  divider: c.rule,
});

export const TEXT_FACE = '"Atkinson Hyperlegible Next", system-ui, sans-serif';
export const FIGURE_FACE = '"JetBrains Mono", ui-monospace, monospace';

export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-scheme' },
  colorSchemes: { light: { palette: palette(LIGHT) }, dark: { palette: palette(DARK) } },
  shape: { borderRadius: 4 },
  typography: { fontFamily: TEXT_FACE, fontSize: 14, button: { textTransform: 'none', fontWeight: 700 } },
  components: {
    MuiButton: { defaultProps: { disableElevation: true, disableRipple: true } },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiTextField: { defaultProps: { size: 'small' } },
    MuiSelect: { defaultProps: { size: 'small' } },
    MuiToggleButton: { styleOverrides: { root: { color: 'var(--soft)' } } },
    MuiTooltip: { defaultProps: { arrow: true, enterDelay: 400 } },
  },
});

const variables = (c: typeof LIGHT): string =>
  Object.entries(c)
    .map(([k, v]) => `--${k}:${v};`)
    .join('');

/** The same colours for our own marks and styles. */
export const COLOUR_VARIABLES = `:root{${variables(LIGHT)}}[data-scheme="dark"]{${variables(DARK)}}`;
