import { definePreset } from '@primeuix/themes';
import Aura from '@primeuix/themes/aura';

const lake = {
  50: '#eef4f9',
  100: '#d5e4f0',
  200: '#adc9e0',
  300: '#85b5dd',
  400: '#5a8fbc',
  500: '#27567f',
  600: '#214a6d',
  700: '#1b3d5a',
  800: '#153048',
  900: '#0f2436',
  950: '#0a1825',
};

const overlay = { background: 'var(--panel)', borderColor: 'var(--line)', color: 'var(--ink)' };
const option = {
  focusBackground: 'var(--wash)',
  selectedBackground: 'var(--wash)',
  selectedFocusBackground: 'var(--wash)',
  color: 'var(--ink)',
  focusColor: 'var(--ink)',
  selectedColor: 'var(--ink)',
  selectedFocusColor: 'var(--ink)',
  icon: { color: 'var(--faint)', focusColor: 'var(--ink)' },
};

/** The colours of styles.css, which turn with the theme by themselves. */
const colours = {
  primary: {
    color: 'var(--lake)',
    contrastColor: 'var(--on-lake)',
    hoverColor: 'var(--lake)',
    activeColor: 'var(--lake)',
  },
  highlight: {
    background: 'var(--wash)',
    focusBackground: 'var(--wash)',
    color: 'var(--ink)',
    focusColor: 'var(--ink)',
  },
  content: {
    background: 'var(--panel)',
    hoverBackground: 'var(--wash)',
    borderColor: 'var(--line)',
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
  },
  formField: {
    background: 'var(--panel)',
    disabledBackground: 'var(--wash)',
    filledBackground: 'var(--panel)',
    filledHoverBackground: 'var(--panel)',
    filledFocusBackground: 'var(--panel)',
    borderColor: 'var(--faint)',
    hoverBorderColor: 'var(--lake)',
    focusBorderColor: 'var(--lake)',
    invalidBorderColor: 'var(--fails)',
    color: 'var(--ink)',
    disabledColor: 'var(--faint)',
    placeholderColor: 'var(--faint)',
    invalidPlaceholderColor: 'var(--fails)',
    iconColor: 'var(--faint)',
    shadow: 'none',
  },
  text: {
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
    mutedColor: 'var(--faint)',
    hoverMutedColor: 'var(--ink)',
  },
  overlay: { select: overlay, popover: overlay, modal: overlay },
  list: { option, optionGroup: { background: 'transparent', color: 'var(--faint)' } },
  navigation: { item: { ...option, activeBackground: 'var(--wash)', activeColor: 'var(--ink)' } },
};

const cell = { borderColor: 'var(--line)', padding: '0.26rem 0.6rem' };
const insideRing = { offset: '-2px' };

const toggle = {
  root: {
    background: 'var(--faint)',
    disabledBackground: 'var(--line)',
    hoverBackground: 'var(--ink)',
    checkedBackground: 'var(--lake)',
    checkedHoverBackground: 'var(--lake)',
  },
  handle: {
    background: 'var(--panel)',
    hoverBackground: 'var(--panel)',
    disabledBackground: 'var(--panel)',
    checkedBackground: 'var(--on-lake)',
    checkedHoverBackground: 'var(--on-lake)',
  },
};
const stepButtons = {
  button: {
    background: 'transparent',
    hoverBackground: 'var(--wash)',
    activeBackground: 'var(--wash)',
    borderColor: 'var(--faint)',
    hoverBorderColor: 'var(--lake)',
    activeBorderColor: 'var(--lake)',
    color: 'var(--faint)',
    hoverColor: 'var(--ink)',
    activeColor: 'var(--ink)',
  },
};
const calendar = {
  dropdown: {
    background: 'var(--panel)',
    hoverBackground: 'var(--wash)',
    activeBackground: 'var(--wash)',
    color: 'var(--faint)',
    hoverColor: 'var(--ink)',
    activeColor: 'var(--ink)',
  },
  today: { background: 'var(--wash)', color: 'var(--ink)' },
};
const skeleton = { root: { background: 'var(--wash)', animationBackground: 'rgba(127, 127, 127, 0.12)' } };
const messageOf = (colour: string) => ({
  background: 'var(--panel)',
  borderColor: `var(--${colour})`,
  color: 'var(--ink)',
  detailColor: 'var(--ink)',
  closeButton: {
    hoverBackground: 'var(--wash)',
    focusRing: { color: 'var(--lake)', shadow: 'none' },
  },
});
const messages = {
  success: messageOf('holds'),
  info: messageOf('lake'),
  warn: messageOf('weak'),
  error: messageOf('fails'),
};

/** Paper, ink, brass and glass, for whatever PrimeNG draws. */
export const worksPreset = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '3px', lg: '4px', xl: '4px' } },
  semantic: {
    transitionDuration: '0s',
    primary: lake,
    focusRing: { width: '2px', style: 'solid', color: 'var(--lake)', offset: '2px' },
    formField: {
      paddingX: '0.5rem',
      paddingY: '0.36rem',
      sm: { fontSize: '0.93rem', paddingX: '0.5rem', paddingY: '0.2rem' },
      borderRadius: '3px',
      focusRing: { width: '2px', style: 'solid', color: 'var(--lake)', offset: '2px' },
    },
    list: { padding: '0.2rem', option: { padding: '0.28rem 0.6rem', borderRadius: '2px' } },
    overlay: { modal: { borderRadius: '4px', padding: '1.1rem' } },
    colorScheme: { light: colours, dark: colours },
  },
  components: {
    datatable: {
      headerCell: {
        ...cell,
        background: 'var(--panel)',
        hoverBackground: 'var(--wash)',
        selectedBackground: 'var(--panel)',
        color: 'var(--faint)',
        hoverColor: 'var(--ink)',
        selectedColor: 'var(--ink)',
        gap: '0.3rem',
        focusRing: insideRing,
      },
      bodyCell: cell,
      row: { focusRing: insideRing },
      sortIcon: { size: '0.75rem', color: 'var(--line)' },
      columnResizer: { width: '0.4rem' },
      resizeIndicator: { width: '1px', color: 'var(--lake)' },
      paginatorBottom: { borderColor: 'var(--line)', borderWidth: '0' },
    },
    paginator: {
      root: { padding: '0.4rem 0', background: 'transparent' },
      navButton: { width: '2rem', height: '2rem', borderRadius: '3px' },
    },
    select: { dropdown: { width: '1.8rem' } },
    multiselect: { dropdown: { width: '1.8rem' } },
    button: { root: { paddingX: '0.8rem', paddingY: '0.36rem', borderRadius: '3px', label: { fontWeight: '400' } } },
    toggleswitch: {
      root: { width: '2.3rem', height: '1.35rem' },
      handle: { size: '0.95rem' },
      colorScheme: { light: toggle, dark: toggle },
    },
    inputnumber: { colorScheme: { light: stepButtons, dark: stepButtons } },
    datepicker: { colorScheme: { light: calendar, dark: calendar } },
    tabs: {
      tablist: { background: 'transparent', borderColor: 'var(--line)', borderWidth: '0 0 1px 0' },
      tab: {
        padding: '0.4rem 0.9rem',
        color: 'var(--faint)',
        hoverColor: 'var(--ink)',
        activeColor: 'var(--ink)',
        fontWeight: '400',
        background: 'transparent',
      },
      activeBar: { height: '3px', background: 'var(--weak)' },
      tabpanel: { padding: '0.8rem 0 0', background: 'transparent' },
    },
    breadcrumb: { root: { padding: '0 0 0.2rem', background: 'transparent', gap: '0.3rem' } },
    skeleton: { root: { borderRadius: '3px' }, colorScheme: { light: skeleton, dark: skeleton } },
    message: {
      root: { borderRadius: '0 3px 3px 0', borderWidth: '0' },
      content: { padding: '0.5rem 0.9rem', gap: '0.6rem' },
      text: { fontSize: '1rem', fontWeight: '400' },
      colorScheme: { light: messages, dark: messages },
    },
    toast: {
      root: { width: '24rem', borderRadius: '3px', borderWidth: '1px' },
      content: { padding: '0.6rem 0.9rem' },
      detail: { fontSize: '1rem' },
      colorScheme: { light: messages, dark: messages },
    },
    tooltip: {
      root: { maxWidth: '24rem', padding: '0.35rem 0.6rem' },
      colorScheme: {
        light: { root: { background: 'var(--ink)', color: 'var(--paper)' } },
        dark: { root: { background: 'var(--ink)', color: 'var(--paper)' } },
      },
    },
  },
});
