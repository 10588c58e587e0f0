import { createTheme } from '@mui/material/styles';

/** The look of a survey drawing on limestone (see the design's "Look"). */
export const ink = {
  paper: '#ECE9E1',
  panel: '#F6F4EE',
  ink: '#20262B',
  soft: '#5A6066',
  line: '#CFCABD',
  water: '#0B5C66',
  waterPale: '#DDE9E8',
  ochre: '#8C5A0B',
  ochrePale: '#F3E8CF',
  brick: '#9C3B2B',
  grey: '#8E8E8E',
};

export const serif = 'Newsreader, Georgia, serif';
export const mono = '"IBM Plex Mono", monospace';

export const theme = createTheme({
  palette: {
    mode: 'light',
    background: { default: ink.paper, paper: ink.panel },
    text: { primary: ink.ink, secondary: ink.soft },
    primary: { main: ink.water },
    warning: { main: ink.ochre },
    error: { main: ink.brick },
    divider: ink.line,
  },
  shape: { borderRadius: 2 },
  spacing: 8,
  typography: {
    fontFamily: '"IBM Plex Sans", sans-serif',
    fontSize: 13,
    h1: { fontFamily: serif, fontSize: 26, fontWeight: 400 },
    h2: { fontFamily: serif, fontSize: 20, fontWeight: 400 },
    h3: { fontFamily: serif, fontSize: 15, fontWeight: 500 },
    body1: { fontSize: 13 },
    body2: { fontSize: 12 },
    button: { textTransform: 'none', fontWeight: 500 },
  },
  transitions: {
    duration: {
      shortest: 120,
      shorter: 120,
      short: 120,
      standard: 120,
      complex: 120,
      enteringScreen: 120,
      leavingScreen: 120,
    },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        body: { fontVariantNumeric: 'tabular-nums' },
        a: { color: ink.water },
        // Browsers give them a typeface of their own.
        'button, input, textarea, select': { fontFamily: 'inherit' },
        ':focus-visible': { outline: `2px solid ${ink.water}`, outlineOffset: 1 },
        '@media (prefers-reduced-motion: reduce)': {
          '*': { transition: 'none !important', animation: 'none !important' },
        },
      },
    },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small' },
      styleOverrides: { root: { minWidth: 0, padding: '3px 10px' } },
    },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: { root: { border: `1px solid ${ink.line}`, backgroundImage: 'none' } },
    },
    MuiTooltip: {
      // The tooltip explains; the control keeps its own name.
      defaultProps: { enterDelay: 350, arrow: false, describeChild: true },
      styleOverrides: { tooltip: { background: ink.ink, fontSize: 12, borderRadius: 2, maxWidth: 280 } },
    },
    MuiTextField: { defaultProps: { slotProps: { inputLabel: { shrink: true } } } },
    MuiInputBase: { styleOverrides: { root: { fontSize: 13 }, input: { padding: '3px 6px !important' } } },
    MuiSelect: { styleOverrides: { select: { paddingRight: '26px !important', minWidth: '0 !important' } } },
    MuiMenuItem: { styleOverrides: { root: { fontSize: 13, minHeight: 28 } } },
  },
});

/** Thousands set apart by a thin space, as on a drawing. */
export const figure = (value: number, digits = 0) =>
  value.toLocaleString('en-GB', { maximumFractionDigits: digits, minimumFractionDigits: 0 }).replaceAll(',', '\u2009');
