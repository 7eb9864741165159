import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { registryFileBytes } from '@loyal-hinge/core';
import type { SmallestView } from '@loyal-hinge/contract';
import { saveBlob } from '../files/save-blob';

/** The least that lets every link of a machine work: the change in words, before and after, and the files for it. */
@Component({
  selector: 'hinge-smallest-settings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section>
      <h2>The smallest settings</h2>
      @for (note of smallest().notes; track note) {
        <p class="weak">{{ note }}</p>
      }
      @if (smallest().changes.length === 0) {
        <p class="faint">
          {{
            smallest().notes.length === 0
              ? 'Nothing has to be changed: what links need is given, and no more.'
              : 'Nothing else has to be changed.'
          }}
        </p>
      } @else {
        @for (change of smallest().changes; track change.what) {
          <article>
            <h3>{{ change.what }}</h3>
            <ul>
              @for (says of change.says; track says) {
                <li>{{ says }}</li>
              }
            </ul>
            <dl>
              <div>
                <dt>Before</dt>
                <dd class="mono">{{ change.before ?? 'none of its own' }}</dd>
              </div>
              <div>
                <dt>After</dt>
                <dd class="mono">{{ change.after }}</dd>
              </div>
            </dl>
          </article>
        }
        @if (smallest().restarts.length > 0) {
          <p>Counts once these were started anew: {{ smallest().restarts.join(', ') }}.</p>
        }
        <p class="actions">
          <button type="button" class="act main" (click)="save('apply')">Save the file that changes it</button>
          <button type="button" class="act" (click)="save('undo')">Save the file that takes it back</button>
        </p>
        <p class="faint">
          On the machine, an administrator puts a file in force with <code>reg import</code>. Bring new exports
          afterwards, and check the links.
        </p>
      }
    </section>
  `,
  styles: `
    article {
      margin: 0.8rem 0;
    }
    ul {
      margin: 0.2rem 0;
      padding-inline-start: 1.2rem;
    }
    dl {
      margin: 0.2rem 0;
    }
    dl div {
      display: grid;
      grid-template-columns: 5rem 1fr;
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
    .actions {
      display: flex;
      gap: 0.6rem;
    }
  `,
})
export class SmallestSettings {
  readonly smallest = input.required<SmallestView>();
  /** The machine whose settings they are, for the names of the files. */
  readonly machineId = input.required<string>();

  save(which: 'apply' | 'undo'): void {
    const bytes = registryFileBytes(this.smallest()[which]);
    saveBlob(`${this.machineId()}-${which === 'apply' ? 'change' : 'back'}.reg`, new Blob([Uint8Array.from(bytes)]));
  }
}
