import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { byNumber, isPatternFault, itemPattern } from '@loyal-hinge/core';
import type { BenchMatches } from '@loyal-hinge/contract';
import * as z from 'zod';
import { contractForm, isComplete } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { ReactiveFormsModule } from '@angular/forms';

const mostShown = 12;

/** Says what is wrong with a pattern at its field. */
const pattern = z.string().superRefine((text, context) => {
  const read = itemPattern(text);
  if (isPatternFault(read)) context.addIssue({ code: 'custom', message: read.says });
});

/** Finds variables by a pattern for their paths, shows what it matches, and watches them all. */
@Component({
  selector: 'hinge-find-nodes',
  imports: [ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form [formGroup]="form" (ngSubmit)="send($event)">
      <hinge-text
        label="Find variables by their path"
        kind="technical"
        placeholder="Lehr/Zone */Temperature, or Lehr/**"
        [control]="form.controls.pattern"
      />
      <button type="submit" class="act" [disabled]="busy()">{{ busy() ? 'Looking …' : 'Find' }}</button>
    </form>
    @if (matches(); as found) {
      <div class="found" role="status">
        <strong>{{ words() }}</strong>
        @for (node of found.nodes.slice(0, mostShown); track node.nodeId) {
          <span class="mono">{{ node.path }}</span>
        }
        @if (found.nodes.length > mostShown) {
          <span class="faint">and {{ found.nodes.length - mostShown }} more</span>
        }
        <span class="actions">
          @if (found.nodes.length > 0 && room() > 0) {
            <button type="button" class="act main" (click)="watch.emit(found.nodes)">{{ watchWords() }}</button>
          }
          <button type="button" class="act" (click)="left.emit()">Cancel</button>
        </span>
      </div>
    }
  `,
  styles: `
    form {
      display: flex;
      gap: 0.7rem;
      align-items: flex-end;
      margin-bottom: 0.4rem;
    }
    hinge-text {
      flex: 0 1 28rem;
    }
    form button {
      margin-bottom: 0.9rem;
    }
    .found {
      display: flex;
      flex-wrap: wrap;
      gap: 0.3rem 1rem;
      align-items: baseline;
      border: 1px solid var(--line);
      background: var(--panel);
      padding: 0.6rem 0.9rem;
      margin-bottom: 0.8rem;
      font-size: 0.92rem;
    }
    .actions {
      margin-left: auto;
    }
  `,
})
export class FindNodes {
  readonly matches = input.required<BenchMatches | null>();
  readonly busy = input(false);
  /** So many more can be watched. */
  readonly room = input.required<number>();
  readonly found = output<string>();
  readonly watch = output<BenchMatches['nodes']>();
  readonly left = output();
  readonly mostShown = mostShown;
  readonly form = contractForm({ pattern }, { pattern: '' });
  readonly words = computed(() => {
    const { nodes, seen, isWhole } = this.matches() ?? { nodes: [], seen: 0, isWhole: true };
    const count = byNumber(nodes.length, '# variable matches.', '# variables match.');
    return isWhole ? count : `${count} There may be more: ${seen} nodes were looked at. Name more of the path.`;
  });
  readonly watchWords = computed(() => {
    const count = this.matches()?.nodes.length ?? 0;
    return count > this.room()
      ? byNumber(this.room(), 'Watch the first # of them', 'Watch the first # of them')
      : byNumber(count, 'Watch it', 'Watch all #');
  });

  send(sent: Event): void {
    if (isComplete(this.form, sent)) this.found.emit(this.form.getRawValue().pattern.trim());
  }
}
