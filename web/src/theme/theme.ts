'use client';

import { createTheme } from '@mui/material/styles';
import { BASE } from './base.ts';
import { DAY, NIGHT } from './palette.ts';

declare module '@mui/material/Button' {
  interface ButtonPropsVariantOverrides {
    /** A light pill with a hairline, for a choice among several. */
    quiet: true;
  }
}

declare module '@mui/material/styles' {
  interface TypeText {
    /** Hints, and what is drawn behind the rest. */
    faint: string;
  }
  interface TypeBackground {
    /** What is chosen or pointed at. */
    wash: string;
  }
  interface Palette {
    /** Lines inside of a group; `divider` is between groups. */
    hairline: string;
    /** Bands behind a waveform: what passes, what fails, what is chosen. */
    band: typeof DAY.band;
    /** The shadow of what lies above the page. */
    shade: string;
    /** The colours of signals, from 1. */
    lane: typeof DAY.lane;
  }
  interface PaletteOptions {
    hairline: string;
    band: typeof DAY.band;
    shade: string;
    lane: typeof DAY.lane;
  }
  interface ThemeOptions {
    family: typeof FAMILY;
    size: typeof SIZE;
  }
}

/** Serif for sentences, titles and large figures; mono for numbers in columns and for code. */
const FAMILY = {
  serif: "'Newsreader Variable', serif",
  sans: "'Instrument Sans Variable', sans-serif",
  mono: "'Spline Sans Mono Variable', monospace",
};

/** The type sizes of the product; there are no others. */
const SIZE = {
  tiny: '11px',
  small: '12px',
  body: '13px',
  lead: '16px',
  title: '19px',
  heading: '22px',
  figure: '28px',
  display: '40px',
};

/** The product's look. Style sheets and drawings take all of it from here, as custom properties that begin with --hz-. */
export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-scheme', cssVarPrefix: 'hz' },
  colorSchemes: { light: { palette: DAY }, dark: { palette: NIGHT } },
  family: FAMILY,
  size: SIZE,
  shape: { borderRadius: 8 },
  spacing: 4,
  typography: {
    fontFamily: FAMILY.sans,
    fontSize: 13,
    htmlFontSize: 13,
    body1: { fontSize: SIZE.body, lineHeight: 1.4, letterSpacing: 0 },
    body2: { fontSize: SIZE.body, lineHeight: 1.4, letterSpacing: 0 },
    caption: { fontSize: SIZE.small, lineHeight: 1.4, letterSpacing: 0 },
    overline: {
      fontSize: SIZE.tiny,
      fontWeight: 650,
      lineHeight: 1.4,
      letterSpacing: '0.06em',
      textTransform: 'uppercase',
    },
    button: {
      fontSize: SIZE.body,
      fontWeight: 600,
      lineHeight: 1.4,
      letterSpacing: 0,
      textTransform: 'none',
    },
  },
  transitions: {
    duration: {
      shortest: 80,
      shorter: 100,
      short: 120,
      standard: 140,
      enteringScreen: 120,
      leavingScreen: 90,
    },
  },
  components: {
    MuiCssBaseline: { styleOverrides: BASE },
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      styleOverrides: {
        root: {
          font: 'inherit',
          color: 'inherit',
          letterSpacing: 'inherit',
          justifyContent: 'flex-start',
          textAlign: 'left',
        },
      },
    },
    MuiIconButton: { styleOverrides: { root: { justifyContent: 'center', padding: 0 } } },
    MuiInputBase: {
      styleOverrides: {
        root: { font: 'inherit', letterSpacing: 'inherit', lineHeight: 'inherit', color: 'inherit' },
        input: {
          font: 'inherit',
          letterSpacing: 'inherit',
          padding: 0,
          height: 'auto',
          '&::placeholder': { color: 'var(--hz-palette-text-secondary)', opacity: 1 },
        },
        multiline: { padding: 0 },
      },
    },
    MuiNativeSelect: {
      styleOverrides: {
        root: { minWidth: 0 },
        select: {
          '&.MuiNativeSelect-select': { paddingRight: 18, minWidth: 0 },
          '& option': { background: 'var(--hz-palette-background-paper)' },
        },
        icon: { fontSize: 18, right: 0, color: 'var(--hz-palette-text-faint)' },
      },
    },
    MuiTableCell: {
      defaultProps: { padding: 'none' },
      styleOverrides: {
        // A cell takes its type from its table, as a sentence's number takes it from the sentence.
        root: { font: 'inherit', letterSpacing: 'inherit', color: 'inherit', borderBottom: 'none' },
      },
    },
    MuiCheckbox: {
      defaultProps: { size: 'small', color: 'primary' },
      styleOverrides: { root: { padding: 3, '& svg': { fontSize: 18 } } },
    },
    MuiFormControlLabel: {
      styleOverrides: { root: { margin: 0, gap: 5 }, label: { font: 'inherit', color: 'inherit' } },
    },
    MuiLinearProgress: {
      styleOverrides: {
        root: { height: 4, borderRadius: 2, background: 'var(--hz-palette-hairline)' },
        bar: { transition: 'none' },
      },
    },
    MuiTabs: {
      styleOverrides: {
        root: { minHeight: 0 },
        indicator: { transition: 'none', background: 'var(--hz-palette-primary-main)' },
        // At an end of the row there is nothing to scroll to, and no need for the room.
        scrollButtons: { '&.Mui-disabled': { width: 0 } },
      },
    },
    MuiTab: {
      styleOverrides: {
        root: {
          minHeight: 0,
          minWidth: 0,
          maxWidth: 'none',
          padding: '0 10px',
          justifyContent: 'center',
          font: 'inherit',
          color: 'var(--hz-palette-text-secondary)',
          textTransform: 'none',
          opacity: 1,
          '&:hover': { color: 'var(--hz-palette-text-primary)' },
          '&.Mui-selected': { color: 'var(--hz-palette-text-primary)', fontWeight: 650 },
        },
      },
    },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small' },
      styleOverrides: {
        root: {
          borderRadius: 18,
          fontWeight: 600,
          fontSize: 13,
          minHeight: 32,
          paddingInline: 14,
          justifyContent: 'center',
          whiteSpace: 'nowrap',
        },
      },
      variants: [
        {
          props: { variant: 'quiet' },
          style: {
            border: '1px solid var(--hz-palette-divider)',
            borderRadius: 14,
            fontWeight: 400,
            lineHeight: '22px',
            minHeight: 24,
            padding: '0 10px',
            color: 'var(--hz-palette-text-primary)',
            '&:hover': {
              borderColor: 'var(--hz-palette-primary-main)',
              color: 'var(--hz-palette-primary-main)',
              background: 'none',
            },
          },
        },
      ],
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 250, arrow: false },
      styleOverrides: {
        tooltip: {
          background: 'var(--hz-palette-text-primary)',
          color: 'var(--hz-palette-background-default)',
          fontSize: 12,
          lineHeight: 1.4,
          padding: '6px 10px',
          maxWidth: 340,
        },
      },
    },
    MuiDialog: {
      styleOverrides: {
        paper: {
          backgroundImage: 'none',
          background: 'var(--hz-palette-background-paper)',
          border: '1px solid var(--hz-palette-divider)',
        },
      },
    },
    MuiPopover: {
      defaultProps: { transitionDuration: 0 },
      styleOverrides: {
        paper: {
          backgroundImage: 'none',
          background: 'var(--hz-palette-background-paper)',
          border: '1px solid var(--hz-palette-divider)',
          boxShadow: '0 6px 24px var(--hz-palette-shade)',
          borderRadius: 10,
        },
      },
    },
    MuiMenuItem: { styleOverrides: { root: { fontSize: 13, minHeight: 32 } } },
  },
});
