import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { commonName, dayOf } from '@loyal-hinge/core';
import type { SetAsideEntry } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { DateField } from '../forms/date-field';
import { dayIn, startOfDay } from '../forms/days';
import { orderActions } from '../orders/state';
import { trustActions, trustFeature } from './state';
import { TurnsView } from './turns-view';

/** Asks what of a certificate that was set aside is to be trusted and until when, and says what that would turn. */
@Component({
  selector: 'hinge-trust-entry',
  imports: [Choose, DateField, ReactiveFormsModule, RouterLink, TurnsView],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form class="ask" [formGroup]="form" (ngSubmit)="propose()">
      <hinge-choose label="Trust" [formControl]="form.controls.what" [choices]="trustable()" />
      <hinge-date label="Until" [control]="form.controls.until" [least]="tomorrow" [clears]="true">
        <small class="faint">Without a date it stays trusted. Temporary trust ends by itself.</small>
      </hinge-date>
      <hinge-turns [turns]="turns()" />
      @if (isNotEnough()) {
        <p class="weak">
          This alone opens no link: more is missing. The <a routerLink="/trust/plan">Plan</a> has everything.
        </p>
      }
      <p class="faint">
        {{ entry().holder }} will accept it from then on. This becomes a work order, which is approved before anything
        is changed.
      </p>
      <div class="actions">
        <button type="submit" class="act main">Propose</button>
        <button type="button" class="act" (click)="left.emit()">Cancel</button>
      </div>
    </form>
  `,
  styles: `
    .ask {
      border-top: 1px solid var(--line);
      padding-top: 0.7rem;
      max-width: 34rem;
    }
  `,
})
export class TrustEntry {
  private readonly store = inject(Store);
  readonly entry = input.required<SetAsideEntry>();
  readonly left = output();
  readonly turns = this.store.selectSignal(trustFeature.selectTurns);
  readonly tomorrow = dayIn(1);
  readonly form = contractForm({}, { what: 'leaf' as 'leaf' | 'issuer', until: '' });
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  readonly trustable = computed(() => {
    const { issuer } = this.entry();
    return [
      { key: 'leaf', word: 'this certificate' },
      ...(issuer ? [{ key: 'issuer', word: `its issuer ${issuer.name}, and everything that it signs` }] : []),
    ];
  });
  readonly isNotEnough = computed(() => this.turns()?.length === 0 && this.entry().blocks.length > 0);
  private readonly change = computed(() => {
    const { holderId, thumbprint, issuer } = this.entry();
    const { what, until = '' } = this.typed();
    return {
      kind: 'list-certificate' as const,
      holderId,
      list: 'trusted' as const,
      thumbprint: what === 'issuer' && issuer ? issuer.thumbprint : thumbprint,
      until: until === '' ? null : startOfDay(until),
    };
  });
  /** What would turn doesn’t depend on the day on which it ends. */
  private readonly asked = computed(() => this.change(), {
    equal: (one, other) => one.thumbprint === other.thumbprint,
  });

  constructor() {
    effect(() => {
      const changes = [this.asked()];
      untracked(() => {
        this.store.dispatch(trustActions.forgetTurns());
        this.store.dispatch(trustActions.load({ request: { view: 'turns', changes } }));
      });
    });
  }

  propose(): void {
    const { holder, certificate, issuer, blocks, thumbprint } = this.entry();
    const change = this.change();
    const own = commonName(certificate.subject);
    const name = issuer && change.thumbprint !== thumbprint ? issuer.name : own;
    const end = change.until === null ? '' : ` until ${dayOf(change.until)}`;
    const why = `${holder} has set ${own} aside.`;
    const linkIds = blocks.map(({ linkId }) => linkId);
    this.store.dispatch(
      orderActions.propose({
        order: { title: `Let ${holder} trust ${name}${end}`, lines: [{ change, why, linkIds }] },
      }),
    );
  }
}
