import type { Verdict } from '@loyal-hinge/core';

/** A verdict’s bar, as a path that begins at `x`: 34 wide and 14 high, in pixels. */
export const barShape: Readonly<Record<Verdict, (x: number) => string>> = {
  holds: (x) => `M${x + 1} 2h32v10h-32z`,
  weak: (x) => `M${x + 1} 2h12l4 6 4-6h12v10h-32z`,
  fails: (x) => `M${x + 1} 2h13l-4 10h-9zM${x + 24} 2h9v10h-13z`,
  unknown: (x) => `M${x + 1.7} 2.7h30.6v8.6h-30.6z`,
  'not-needed': (x) => `M${x + 1} 7h32`,
};
/** Those that are drawn as a line, and not filled. */
export const drawnAsLine: ReadonlySet<Verdict> = new Set<Verdict>(['unknown', 'not-needed']);
/** The line below a bar whose step is being tried. */
export const workingShape = (x: number): string => `M${x + 1} 13.3h32`;

/** How paths of bars are drawn; colours come from the verdict. */
export const barStyles = `
  path {
    fill: currentColor;
  }
  path.line {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.4;
  }
  .working {
    stroke: var(--lake);
    stroke-width: 2;
    stroke-dasharray: 8 26;
    animation: run 0.9s linear infinite;
  }
  @keyframes run {
    from {
      stroke-dashoffset: 34;
    }
    to {
      stroke-dashoffset: 0;
    }
  }
  @media (prefers-reduced-motion: reduce) {
    .working {
      animation: none;
      stroke-dasharray: none;
    }
  }
`;
