import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { writeProof } from '@loyal-hinge/contract';
import type { LinkDetail } from '@loyal-hinge/contract';
import { ChooseSome } from '../forms/choose-some';
import { contractForm } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { may } from '../session/may';
import { FormSheet } from '../shell/form-sheet';
import { linkActions } from './state';

/** Whether a link may write what it needs to: calculated, or proved by writing the value that is there. */
@Component({
  selector: 'hinge-write-proof',
  imports: [ChooseSome, FormSheet, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Writing</h2>
    <p>{{ verdict()?.summary }}</p>
    @if (isOpen()) {
      <hinge-form-sheet
        heading="Write and read back"
        does="Write and read back"
        [form]="form"
        (sent)="send()"
        (left)="isOpen.set(false)"
      >
        <p class="faint">
          A check of this link reads each item, writes the same value, and reads it again. The value stays as it is,
          unless something else changes it at the same moment. It stands in the audit trail with its value.
        </p>
        <hinge-choose-some label="Items" [choices]="choices()" [control]="form.controls.paths" />
        <hinge-text label="Why" placeholder="permit number, what for" [control]="form.controls.why" />
      </hinge-form-sheet>
    } @else {
      <button type="button" class="act" [disabled]="!mayWrite() || busy()" (click)="isOpen.set(true)">
        {{ buttonWords() }}
      </button>
    }
  `,
  styles: `
    :host {
      display: block;
      margin-bottom: 1rem;
    }
    hinge-text {
      grid-column: span 2;
    }
    h2 {
      margin: 1rem 0 0.4rem;
    }
    p {
      margin: 0 0 0.5rem;
    }
  `,
})
export class WriteProofPanel {
  private readonly store = inject(Store);
  readonly told = input.required<LinkDetail>();
  /** A check of the link is under way. */
  readonly busy = input(false);
  readonly mayWrite = may('engineer');
  readonly isOpen = signal(false);
  private readonly paths = computed(() =>
    this.told()
      .link.needs.filter(({ uses }) => uses.includes('write'))
      .map(({ path }) => path),
  );
  readonly choices = computed(() => this.paths().map((path) => ({ key: path, word: path })));
  readonly verdict = computed(() => this.told().assessment.steps.find(({ step }) => step === 'write'));
  readonly buttonWords = computed(() =>
    byNumber(this.paths().length, 'Prove by writing it back …', 'Prove by writing them back …'),
  );
  readonly form = contractForm(writeProof.shape, { paths: [] as string[], why: '' });

  constructor() {
    // All are wished for, until somebody leaves one out.
    effect(() => {
      const paths = this.paths();
      if (this.form.controls.paths.pristine) this.form.controls.paths.setValue([...paths]);
    });
  }

  send(): void {
    this.isOpen.set(false);
    this.store.dispatch(linkActions.proveWrites({ linkId: this.told().link.id, proof: this.form.getRawValue() }));
    this.form.controls.why.reset();
  }
}
