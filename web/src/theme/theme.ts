'use client';

import { createTheme } from '@mui/material/styles';

const SANS = '"Instrument Sans Variable", sans-serif';

/** Ink on warm paper, and the same at night. The custom properties of globals.css hold the same colours for drawings. */
export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-scheme' },
  colorSchemes: {
    light: {
      palette: {
        primary: { main: '#C2183A' },
        success: { main: '#0F766E' },
        warning: { main: '#B4530A' },
        text: { primary: '#1D2433', secondary: '#5F6572' },
        background: { default: '#FAF7F2', paper: '#FFFDF9' },
        divider: '#DDD6C8',
      },
    },
    dark: {
      palette: {
        primary: { main: '#FF6B85' },
        success: { main: '#58C7BA' },
        warning: { main: '#F2A25C' },
        text: { primary: '#EDE7DC', secondary: '#A9A79F' },
        background: { default: '#151821', paper: '#1D212C' },
        divider: '#363B48',
      },
    },
  },
  shape: { borderRadius: 8 },
  spacing: 8,
  typography: {
    fontFamily: SANS,
    fontSize: 13,
    button: { textTransform: 'none', fontWeight: 600, letterSpacing: 0 },
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
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small' },
      styleOverrides: {
        root: { borderRadius: 18, fontSize: 13, minHeight: 32, paddingInline: 14, whiteSpace: 'nowrap' },
      },
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 250, arrow: false },
      styleOverrides: {
        tooltip: {
          background: 'var(--ink)',
          color: 'var(--paper)',
          fontSize: 12,
          lineHeight: 1.4,
          padding: '6px 10px',
          maxWidth: 340,
        },
      },
    },
    MuiPopover: {
      defaultProps: { transitionDuration: 0 },
      styleOverrides: {
        paper: {
          backgroundImage: 'none',
          background: 'var(--sheet)',
          border: '1px solid var(--line)',
          boxShadow: 'var(--shadow)',
          borderRadius: 10,
        },
      },
    },
    MuiMenuItem: { styleOverrides: { root: { fontSize: 13, minHeight: 32 } } },
  },
});
