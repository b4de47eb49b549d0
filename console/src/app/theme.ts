// The console's own looks: paper-light ground, plum for what acts, blue-green
// for what is chosen, amber and brick for attention and alert.
import { Autocomplete, createTheme, Modal, MultiSelect, Select, type CSSVariablesResolver, type MantineColorsTuple } from '@mantine/core'

const plum: MantineColorsTuple = ['#f8eff5', '#ecd9e6', '#d9b3cd', '#c58bb2', '#b1679a', '#96487f', '#7d3369', '#6d2a5b', '#57204a', '#3f1636']
const sea: MantineColorsTuple = ['#e9f5f4', '#cfe8e6', '#a2d2ce', '#71bab5', '#4aa59f', '#2f928c', '#1f807a', '#166a65', '#105450', '#0a3f3c']
const amber: MantineColorsTuple = ['#fdf5e3', '#fae7bd', '#f3d07f', '#ebb743', '#dd9f1c', '#c2860c', '#a26c06', '#855705', '#694505', '#4d3304']
const brick: MantineColorsTuple = ['#fbeeea', '#f4d3ca', '#e8a898', '#da7c66', '#cb573e', '#b6402a', '#9c3321', '#84291b', '#691f15', '#4d160f']
const gray: MantineColorsTuple = ['#fbf9f5', '#f4f0e9', '#e8e2d8', '#d8d0c4', '#beb4a7', '#9a9085', '#766d64', '#5a524c', '#3d3733', '#26221f']
const dark: MantineColorsTuple = ['#ece6e0', '#cfc7c0', '#aaa19a', '#857c77', '#5f5855', '#463f3e', '#352f30', '#272224', '#1e1a1c', '#151214']

export const theme = createTheme({
  colors: { plum, sea, amber, brick, gray, dark },
  primaryColor: 'plum',
  primaryShade: { light: 7, dark: 5 },
  autoContrast: true,
  defaultRadius: 3,
  fontFamily: "'Source Sans 3 Variable', sans-serif",
  fontFamilyMonospace: 'ui-monospace, monospace',
  headings: { fontFamily: "'Source Serif 4 Variable', serif", fontWeight: '560' },
  fontSizes: { xs: '0.78rem', sm: '0.88rem', md: '0.96rem', lg: '1.08rem', xl: '1.25rem' },
  cursorType: 'pointer',
  respectReducedMotion: true,
  components: {
    Modal: Modal.extend({ defaultProps: { closeButtonProps: { 'aria-label': 'Close' } } }),
    // The head of a dialog is no banner of the page.
    ModalHeader: { defaultProps: { role: 'presentation' } },
    // The list itself scrolls, as its field moves through it; an area around it would have to be reached by keys.
    Select: Select.extend({ defaultProps: { withScrollArea: false } }),
    MultiSelect: MultiSelect.extend({ defaultProps: { withScrollArea: false } }),
    Autocomplete: Autocomplete.extend({ defaultProps: { withScrollArea: false } }),
    CloseButton: { defaultProps: { 'aria-label': 'Clear' } },
  },
})

/** Grounds, lines and meanings as CSS variables, for light and dark. */
export const variables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    '--mantine-color-body': '#fbf8f2',
    '--mantine-color-text': '#2a2523',
    '--mantine-color-dimmed': '#6b615a',
    '--mantine-color-default-border': '#ddd5c9',
    '--mantine-color-error': '#9c3321',
    '--sheet': '#fffefb',
    '--band': '#f3eee5',
    '--line': '#e2dbd0',
    '--acts': '#6d2a5b',
    '--chosen': '#166a65',
    '--chosen-ground': '#e3f1ef',
    '--attention': '#855705',
    '--alert': '#9c3321',
    '--series-0': '#7d3369',
    '--series-1': '#1f807a',
    '--series-2': '#c2860c',
    '--series-3': '#4f6d9a',
    '--series-4': '#b6402a',
    '--series-5': '#71bab5',
    '--series-6': '#c58bb2',
    '--series-7': '#766d64',
  },
  dark: {
    '--mantine-color-body': '#1b1719',
    '--mantine-color-text': '#ece6e0',
    '--mantine-color-dimmed': '#b0a69f',
    '--mantine-color-default-border': '#433b3c',
    '--mantine-color-error': '#e8a898',
    '--sheet': '#211c1e',
    '--band': '#292325',
    '--line': '#3b3436',
    '--acts': '#d9b3cd',
    '--chosen': '#71bab5',
    '--chosen-ground': '#17302f',
    '--attention': '#f3d07f',
    '--alert': '#e8a898',
    '--series-0': '#c58bb2',
    '--series-1': '#4aa59f',
    '--series-2': '#ebb743',
    '--series-3': '#8fa9d0',
    '--series-4': '#da7c66',
    '--series-5': '#a2d2ce',
    '--series-6': '#ecd9e6',
    '--series-7': '#9a9085',
  },
})
