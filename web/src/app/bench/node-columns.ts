import { ChangeDetectionStrategy, Component, ElementRef, inject, input, output } from '@angular/core';
import type { BenchNode } from '@loyal-hinge/contract';
import type { BenchColumn } from './state';

const marks = { Object: '›', Variable: '', Method: 'method', other: '' } as const;

/** The nodes of a server, level by level, each in a column of its own. */
@Component({
  selector: 'hinge-node-columns',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { 'aria-label': 'Nodes', role: 'group' },
  template: `
    @for (column of columns(); track column.parent; let depth = $index) {
      @if (column.nodes === null || column.nodes.length > 0) {
        <ul [attr.aria-busy]="column.nodes === null">
          @for (node of column.nodes ?? []; track node.nodeId) {
            <li>
              <button
                type="button"
                [class.here]="column.chosen === node.nodeId"
                [attr.aria-pressed]="column.chosen === node.nodeId"
                (click)="choose.emit({ depth, node })"
                (keydown)="act($event, depth)"
              >
                {{ node.displayName }} <span class="faint">{{ marks[node.nodeClass] }}</span>
              </button>
            </li>
          } @empty {
            <li class="faint">Reading …</li>
          }
        </ul>
      }
    }
  `,
  styles: `
    :host {
      display: flex;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0.3rem 0;
      min-width: 12.5rem;
      border-right: 1px solid var(--line);
      overflow-y: auto;
    }
    button {
      all: unset;
      box-sizing: border-box;
      cursor: pointer;
      display: block;
      width: 100%;
      padding: 0.24rem 0.8rem;
    }
    button:hover {
      background: var(--wash);
    }
    button:focus-visible {
      outline: 2px solid var(--lake);
      outline-offset: -2px;
    }
    button.here {
      background: var(--wash);
      box-shadow: inset 3px 0 var(--weak);
      font-weight: 600;
    }
  `,
})
export class NodeColumns {
  readonly columns = input.required<readonly BenchColumn[]>();
  readonly choose = output<{ depth: number; node: BenchNode }>();
  readonly watch = output<BenchNode>();
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);

  readonly marks = marks;

  /** Arrows move through a column and from one to the next; W watches the variable that has the focus. */
  act(pressed: KeyboardEvent, depth: number): void {
    const lists = [...this.host.nativeElement.querySelectorAll('ul')];
    const buttons = [...(lists[depth]?.querySelectorAll('button') ?? [])];
    const at = buttons.findIndex((button) => button === pressed.target);
    const focus = (button: HTMLElement | null | undefined): void => {
      pressed.preventDefault();
      button?.focus();
    };
    switch (pressed.key) {
      case 'ArrowDown':
        return focus(buttons[at + 1]);
      case 'ArrowUp':
        return focus(buttons[at - 1]);
      case 'ArrowRight':
        return focus(lists[depth + 1]?.querySelector('button'));
      case 'ArrowLeft':
        return focus(lists[depth - 1]?.querySelector<HTMLElement>('button.here'));
      case 'w':
      case 'W': {
        const node = this.columns()[depth]?.nodes?.[at];
        if (node?.nodeClass !== 'Variable' || pressed.ctrlKey || pressed.metaKey || pressed.altKey) return;
        pressed.preventDefault();
        pressed.stopPropagation();
        this.watch.emit(node);
      }
    }
  }
}
