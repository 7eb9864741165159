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

/** Paper, ink, brass and glass, for the few PrimeNG components in use. */
export const worksPreset = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '3px', lg: '4px', xl: '4px' } },
  semantic: {
    primary: lake,
    focusRing: { width: '2px', style: 'solid', color: 'var(--lake)', offset: '2px' },
    overlay: { modal: { borderRadius: '4px', padding: '1.1rem' } },
    colorScheme: {
      light: {
        content: { background: '#fffdf8', borderColor: '#d9d2c3', color: '#1e2a30' },
        overlay: { modal: { background: '#fffdf8', borderColor: '#d9d2c3', color: '#1e2a30' } },
        text: { color: '#1e2a30', mutedColor: '#545f63' },
      },
      dark: {
        content: { background: '#1b2226', borderColor: '#38434a', color: '#e8e3d6' },
        overlay: { modal: { background: '#1b2226', borderColor: '#38434a', color: '#e8e3d6' } },
        text: { color: '#e8e3d6', mutedColor: '#a6adac' },
      },
    },
  },
});
