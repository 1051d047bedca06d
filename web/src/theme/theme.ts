'use client';

import { createTheme } from '@mui/material/styles';

declare module '@mui/material/Button' {
  interface ButtonPropsVariantOverrides {
    /** A light pill with a hairline, for a choice among several. */
    quiet: true;
  }
}

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
          '&::placeholder': { color: 'var(--soft)', opacity: 1 },
        },
        multiline: { padding: 0 },
      },
    },
    MuiNativeSelect: {
      styleOverrides: {
        root: { minWidth: 0 },
        select: {
          '&.MuiNativeSelect-select': { paddingRight: 18, minWidth: 0 },
          '& option': { background: 'var(--sheet)' },
        },
        icon: { fontSize: 18, right: 0, color: 'var(--faint)' },
      },
    },
    MuiTableCell: {
      styleOverrides: {
        root: {
          font: 'inherit',
          letterSpacing: 'inherit',
          color: 'inherit',
          border: 0,
          padding: 0,
          lineHeight: 'inherit',
        },
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
        root: { height: 4, borderRadius: 2, background: 'var(--hair)' },
        bar: { transition: 'none' },
      },
    },
    MuiTabs: {
      styleOverrides: {
        root: { minHeight: 0 },
        indicator: { transition: 'none', background: 'var(--pulse)' },
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
          color: 'var(--soft)',
          textTransform: 'none',
          opacity: 1,
          '&:hover': { color: 'var(--ink)' },
          '&.Mui-selected': { color: 'var(--ink)', fontWeight: 650 },
        },
      },
    },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small' },
      styleOverrides: {
        root: {
          borderRadius: 18,
          fontFamily: SANS,
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
            border: '1px solid var(--line)',
            borderRadius: 14,
            fontWeight: 400,
            lineHeight: '22px',
            minHeight: 24,
            padding: '0 10px',
            color: 'var(--ink)',
            '&:hover': { borderColor: 'var(--pulse)', color: 'var(--pulse)', background: 'none' },
          },
        },
      ],
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
    MuiDialog: {
      styleOverrides: {
        paper: { backgroundImage: 'none', background: 'var(--sheet)', border: '1px solid var(--line)' },
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
