import { providePrimeNG } from 'primeng/config';
import { UseStyle } from 'primeng/usestyle';

/** Nothing is drawn in a test, and computing and reading styles takes much of the time of all tests of pages. */
export const undrawn = [providePrimeNG({ theme: 'none' }), { provide: UseStyle, useValue: { use: () => ({}) } }];
