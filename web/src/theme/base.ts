import type { CSSObject } from '@mui/material/styles';

/** What all pages share beyond MUI's base: form elements take the text around them, thin scroll bars, the focus ring, words of type. */
export const BASE: CSSObject = {
  '*': { scrollbarWidth: 'thin', scrollbarColor: 'var(--hz-palette-divider) transparent' },
  'html, body': { height: '100%' },
  body: { fontVariantNumeric: 'tabular-nums' },
  '::selection': {
    background: 'var(--hz-palette-primary-main)',
    color: 'var(--hz-palette-background-default)',
  },
  ':where(h1, h2, h3, p)': { margin: 0, fontWeight: 'inherit', fontSize: 'inherit' },
  ':where(button, input, select, textarea)': { font: 'inherit', color: 'inherit' },
  ':where(a)': { color: 'inherit' },
  ':focus-visible': {
    outline: '2px solid var(--hz-palette-primary-main)',
    outlineOffset: 2,
    borderRadius: 'var(--hz-spacing)',
  },
  '.serif': { fontFamily: 'var(--hz-family-serif)' },
  '.mono': { fontFamily: 'var(--hz-family-mono)', fontVariantLigatures: 'none' },
  '.label': {
    font: 'var(--hz-font-overline)',
    letterSpacing: '0.06em',
    textTransform: 'uppercase',
    color: 'var(--hz-palette-text-secondary)',
  },
  '.soft': { color: 'var(--hz-palette-text-secondary)' },
  '.hidden': {
    position: 'absolute',
    width: 1,
    height: 1,
    overflow: 'hidden',
    clipPath: 'inset(50%)',
    whiteSpace: 'nowrap',
  },
  kbd: {
    padding: '0 var(--hz-spacing)',
    border: '1px solid var(--hz-palette-divider)',
    borderRadius: 3,
    background: 'var(--hz-palette-background-paper)',
    fontFamily: 'var(--hz-family-mono)',
    fontSize: 'var(--hz-size-tiny)',
  },
  '@media (prefers-reduced-motion: reduce)': {
    '*, *::before, *::after': {
      transitionDuration: '0s !important',
      animationDuration: '0s !important',
    },
  },
};
