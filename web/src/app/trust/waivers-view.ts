import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { waivableSteps } from '@loyal-hinge/core';
import type { WaivableStep } from '@loyal-hinge/core';
import type { CertificatePage } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { FormSheet } from '../shell/form-sheet';
import { Moment } from '../signs/moment';
import { isRunning, trustActions } from './state';
import { Choose, asChoices } from '../forms/choose';

const dayMs = 86_400_000;
const dayIn = (ms: number): string => new Date(ms).toISOString().slice(0, 10);

/** What applications pass over when they meet a certificate: who answers for it, until when, and why. */
@Component({
  selector: 'hinge-waivers',
  imports: [Choose, FormsModule, FormSheet, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul>
      @for (waiver of page().waivers; track waiver.id) {
        <li>
          {{ waiver.holder }} passes over <strong [class]="waiver.ended ? 'unknown' : 'weak'">{{ waiver.step }}</strong>
          @if (waiver.ended; as ended) {
            <span class="faint"
              >: ended <hinge-moment [at]="ended.at" /> ({{ ended.by === 'its date' ? 'by itself' : ended.by }})</span
            >
          } @else {
            until <hinge-moment [at]="waiver.until" show="day" />
            <button type="button" class="plain" [disabled]="!mayWaive() || busy()" (click)="takeBack(waiver.id)">
              Take it back
            </button>
          }
          <span class="why faint"
            >{{ waiver.why }} {{ waiver.givenBy }}, <hinge-moment [at]="waiver.givenAt" show="day"
          /></span>
        </li>
      } @empty {
        <li class="faint">No step is waived for it.</li>
      }
    </ul>
    @if (open()) {
      <hinge-form-sheet
        heading="Waive a step"
        does="Grant waiver"
        [ready]="ready()"
        (kept)="give()"
        (left)="open.set(false)"
      >
        <p class="faint">
          For a limited time, and only for steps that the standard lets an administrator waive (Part 4 §6.1.3). Until
          then the links are strained, not sound; they are checked again at once. A waiver here changes no server: if a
          server must skip the step, set that on the server as well.
        </p>
        <hinge-choose label="At" name="holderId" [(ngModel)]="holderId" [choices]="holderChoices()" />
        <hinge-choose label="Step" name="step" [(ngModel)]="step" [choices]="steps" />
        <label class="field"
          >Until <input type="date" name="until" [min]="tomorrow" [max]="inAYear" [(ngModel)]="until"
        /></label>
        <label class="field why"
          >Why <input name="why" placeholder="what is done about it, and by whom" [(ngModel)]="why"
        /></label>
      </hinge-form-sheet>
    } @else if (page().meets.length > 0) {
      <button
        type="button"
        class="act"
        [disabled]="!mayWaive()"
        [title]="mayWaive() ? '' : 'This takes the role approver.'"
        (click)="open.set(true)"
      >
        Waive a step …
      </button>
    }
  `,
  styles: `
    ul {
      list-style: none;
      padding: 0;
      margin: 0 0 0.5rem;
    }
    li {
      padding: 0.15rem 0;
    }
    li .why {
      display: block;
      font-size: 0.9rem;
    }
    .field.why {
      grid-column: 1 / -1;
    }
  `,
})
export class WaiversView {
  private readonly store = inject(Store);
  readonly page = input.required<CertificatePage>();
  readonly busy = this.store.selectSignal(isRunning('waive', 'take waiver back'));
  readonly mayWaive = may('approver');
  readonly steps = asChoices(waivableSteps);
  readonly holderChoices = computed(() =>
    this.page().meets.map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
  readonly tomorrow = dayIn(Date.now() + dayMs);
  readonly inAYear = dayIn(Date.now() + 365 * dayMs);
  readonly open = signal(false);
  readonly holderId = signal('');
  readonly step = signal<WaivableStep>('validity period');
  readonly until = signal('');
  readonly why = signal('');
  readonly ready = computed(
    () => !this.busy() && this.holderId() !== '' && this.until() !== '' && this.why().trim().length >= 5,
  );

  constructor() {
    effect(() => {
      const ids = this.page().meets.map(({ applicationId }) => applicationId);
      if (!ids.includes(untracked(this.holderId))) this.holderId.set(ids[0] ?? '');
    });
  }

  give(): void {
    const body = {
      holderId: this.holderId(),
      thumbprint: this.page().certificate.thumbprint,
      step: this.step(),
      until: new Date(`${this.until()}T00:00:00`).toISOString(),
      why: this.why().trim(),
    };
    this.store.dispatch(trustActions.command({ command: { does: 'waive', body } }));
    this.open.set(false);
  }

  takeBack(id: number): void {
    this.store.dispatch(trustActions.command({ command: { does: 'take waiver back', id } }));
  }
}
