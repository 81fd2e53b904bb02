import { createTheme } from '@mui/material/styles'

/** Ink on warm paper. Plum is the colour of action and of nothing else. */
export const ink = { 1: '#241a2e', 2: '#63576d', 3: '#8d8296' }
export const paper = { page: '#f6f1e7', bench: '#fbf8f1', sheet: '#fffdf9', line: '#e0d6c6', strong: '#b9ab96', field: '#a2937c' }
export const plum = { main: '#6a2a5b', wash: '#f3e6ee' }
export const apricot = { main: '#e07a3f', wash: '#fbe9dc', ink: '#8f4518', bright: '#f2b58b' }
export const moss = { main: '#3f7350', wash: '#e3efe4', ink: '#35633f' }
export const brick = { main: '#a8402d', wash: '#f8e2dc' }
/** Colours of variants A to E, told apart by the colour-blind too. */
export const variantColors = ['#6a2a5b', '#c2601f', '#1f7a78', '#7c6d14', '#4f6390', '#9c3f5e', '#3f6b33', '#5f5447']
/** The colour of a variant, by its letter. */
export const variantColor = (letter: string) => variantColors[(letter.charCodeAt(0) - 65) % variantColors.length]

export const display = '"Bricolage Grotesque Variable", sans-serif'
const words = '"Instrument Sans Variable", sans-serif'

/** One bite out of the top right corner, of this radius. */
export const bite = (radius: number) => ({
  maskImage: `radial-gradient(circle ${radius}px at calc(100% - 3px) 3px, #0000 98%, #000)`,
})

const heading = { fontFamily: display, fontWeight: 640, letterSpacing: '-.015em', lineHeight: 1.15 }

export const theme = createTheme({
  // Nothing moves for who asked their system that nothing should.
  motion: { reducedMotion: 'system' },
  palette: {
    background: { default: paper.page, paper: paper.sheet },
    text: { primary: ink[1], secondary: ink[2], disabled: ink[3] },
    primary: { main: plum.main, contrastText: '#fff' },
    error: { main: brick.main },
    warning: { main: apricot.main },
    success: { main: moss.main },
    divider: paper.line,
    action: { hover: 'rgb(106 42 91 / .06)', selected: plum.wash },
  },
  shape: { borderRadius: 7 },
  typography: {
    fontFamily: words,
    fontSize: 14,
    htmlFontSize: 16,
    body1: { fontSize: 14, lineHeight: 1.45 },
    body2: { fontSize: 12.5, lineHeight: 1.45 },
    h1: { ...heading, fontSize: 27 },
    h2: { ...heading, fontSize: 20 },
    h3: { ...heading, fontSize: 16 },
    h4: { ...heading, fontSize: 14 },
    button: { textTransform: 'none', fontWeight: 600, fontSize: 14 },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        body: { fontVariantNumeric: 'tabular-nums', fontSize: 14, lineHeight: 1.45 },
        a: { color: plum.main },
        // Colours that say something, of bars and swatches, and those of what is designed, are kept where the system has its own.
        '[data-hue]': { forcedColorAdjust: 'none' },
        // There a ground says nothing any more: what is chosen has a ring, what is pressed an edge.
        '@media (forced-colors: active)': {
          '[aria-pressed=true], [aria-selected=true]': { '&:not(:focus-visible)': { outline: '2px solid Highlight' } },
          '.MuiButton-contained.MuiButton-contained': { border: '1px solid ButtonBorder', mask: 'none' },
        },
        '::selection': { background: apricot.bright },
      },
    },
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      styleOverrides: { root: { fontFamily: words, '&.Mui-focusVisible': { outline: `2px solid ${plum.main}`, outlineOffset: 2 } } },
    },
    MuiButton: {
      defaultProps: { disableElevation: true },
      styleOverrides: {
        root: { padding: '7px 14px', minWidth: 0, lineHeight: 1.35 },
        outlined: { borderColor: paper.strong, color: ink[1], '&:hover': { borderColor: ink[2], background: paper.bench } },
      },
      variants: [
        {
          props: { variant: 'contained', color: 'primary' },
          style: { paddingRight: 21, '&.MuiButton-contained': bite(9), '&:hover': { background: '#551f48' } },
        },
      ],
    },
    // What is pressed is 24 px or more, so that it is hit.
    MuiIconButton: { styleOverrides: { root: { borderRadius: 6, padding: 5, minWidth: 24, minHeight: 24, color: ink[2] } } },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    MuiPopover: { styleOverrides: { paper: { border: `1px solid ${paper.strong}`, boxShadow: '0 10px 34px rgb(36 26 46 / .18)' } } },
    MuiAutocomplete: {
      styleOverrides: { paper: { border: `1px solid ${paper.strong}`, boxShadow: '0 10px 34px rgb(36 26 46 / .18)' }, listbox: { padding: '4px 0' } },
    },
    MuiDialog: { styleOverrides: { paper: { borderRadius: 10, border: `1px solid ${paper.line}` } } },
    MuiTextField: { defaultProps: { size: 'small', fullWidth: true } },
    MuiSelect: { defaultProps: { size: 'small' } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: {
          background: paper.sheet,
          fontSize: 13.5,
          '&.MuiInputBase-multiline': { padding: 0 },
          '& fieldset': { borderColor: paper.field },
          '&:hover:not(.Mui-focused):not(.Mui-error) fieldset': { borderColor: ink[2] },
        },
        input: { '.MuiInputBase-sizeSmall > &': { padding: '6px 10px', height: '1.45em' } },
      },
    },
    MuiMenuItem: { styleOverrides: { root: { fontSize: 13.5, minHeight: 34 } } },
    MuiInputLabel: {
      defaultProps: { required: false },
      styleOverrides: { root: { '&.MuiInputLabel-outlined:not(.MuiInputLabel-shrink)': { transform: 'translate(11px, 6px)' } } },
    },
    MuiFormHelperText: { styleOverrides: { root: { marginLeft: 0, fontSize: 12.5 } } },
    MuiTooltip: { defaultProps: { arrow: false, enterDelay: 400 }, styleOverrides: { tooltip: { background: ink[1], fontSize: 12.5, padding: '5px 9px' } } },
    MuiLink: { defaultProps: { underline: 'hover' } },
    MuiSwitch: { defaultProps: { size: 'small' } },
    MuiTableCell: {
      styleOverrides: {
        root: { borderColor: paper.line, padding: '9px 10px 9px 0', fontSize: 13.5 },
        head: { color: ink[2], fontWeight: 550, fontSize: 12.5, paddingTop: 4, paddingBottom: 6, lineHeight: 1.3 },
      },
    },
  },
})
