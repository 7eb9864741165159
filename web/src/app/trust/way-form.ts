import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { sayPasswordTarget } from '@loyal-hinge/core';
import { trustWay } from '@loyal-hinge/contract';
import type { HolderDetail, PasswordMove, TrustWayBody } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, isComplete } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { TextField } from '../forms/text-field';
import { onceMore } from '../http/once-more';
import { may } from '../session/may';
import { isRunning, trustActions, trustFeature } from './state';
import { Message } from 'primeng/message';

const waysOfAll = [
  { key: 'files', word: 'by a bundle that somebody takes to the machine' },
  { key: 'unknown', word: 'not known' },
] as const;
const waysOfServers = [{ key: 'push', word: 'over push management (Part 12 §7.10)' }, ...waysOfAll] as const;
const push = trustWay.options[0].shape;

/** How the lists of an application are to be changed. */
@Component({
  selector: 'hinge-way-form',
  imports: [Message, Choose, FieldFault, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form [formGroup]="form" (ngSubmit)="save($event)">
      <hinge-choose label="Way" [formControl]="form.controls.way" [choices]="ways()" />
      @if (way() === 'push') {
        <hinge-choose
          label="Client"
          placeholder="which client’s certificate is shown?"
          [formControl]="form.controls.clientId"
          [choices]="clientChoices()"
        >
          <hinge-field-fault [of]="form.controls.clientId" />
        </hinge-choose>
        <hinge-text label="Endpoint URL" kind="technical" [control]="form.controls.endpointUrl" />
        <hinge-text label="User" [control]="form.controls.userName" />
        <hinge-text label="Password" kind="new password" [control]="form.controls.password">
          <small class="faint">{{
            told().access?.passwordState === 'kept'
              ? 'One is stored, encrypted. If this is empty, it stays.'
              : 'It is stored encrypted.'
          }}</small>
        </hinge-text>
        @if (told().access?.passwordMoves; as move) {
          <p-message severity="error">
            <p>
              The stored password is not sent: it was given for another target. Type it again, or let an approver who
              knows the new target send it there.
            </p>
            <dl class="facts">
              <dt>Given for</dt>
              <dd>{{ target(move.before) }}</dd>
              <dt>Now</dt>
              <dd>{{ target(move.after) }}</dd>
            </dl>
            <button type="button" class="act" [disabled]="!mayRelease() || isReleasing()" (click)="release(move)">
              Send the stored password to the new target
            </button>
            @if (!mayRelease()) {
              <small class="faint"> Only approvers can do this.</small>
            }
          </p-message>
        }
        <p class="faint">
          The user needs the role SecurityAdmin on the server; the channel is always signed and encrypted.
        </p>
      }
      <button type="submit" class="act" [disabled]="!mayAct() || isSaving()">Save</button>
    </form>
  `,
})
export class WayForm {
  private readonly store = inject(Store);
  readonly told = input.required<HolderDetail>();
  private readonly known = this.store.selectSignal(trustFeature.selectParties);
  readonly isSaving = this.store.selectSignal(isRunning('set way'));
  readonly isReleasing = this.store.selectSignal(isRunning('release password'));
  readonly mayAct = may('engineer');
  readonly mayRelease = may('approver');
  readonly target = sayPasswordTarget;
  readonly ways = computed(() => (this.told().party.kind === 'server' ? waysOfServers : waysOfAll));
  readonly clientChoices = computed(() =>
    (this.known() ?? [])
      .filter(({ way }) => way === 'held')
      .map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
  readonly form = contractForm(
    { clientId: chosenOne, endpointUrl: push.endpointUrl, userName: push.userName },
    { way: 'unknown' as TrustWayBody['way'], clientId: '', endpointUrl: '', userName: '', password: '' },
  );
  readonly way = toSignal(this.form.controls.way.valueChanges, { initialValue: 'unknown' });
  private filledFor = '';

  constructor() {
    const { way, clientId, endpointUrl, userName, password } = this.form.controls;
    // What belongs to push management alone is judged only there.
    way.valueChanges.subscribe((chosen) =>
      [clientId, endpointUrl, userName, password].forEach((control) =>
        chosen === 'push' ? control.enable() : control.disable(),
      ),
    );
    // What somebody types stays when the lists are loaded again: the form is filled once for each application.
    effect(() => {
      const { party, access } = this.told();
      if (party.applicationId === this.filledFor) return;
      this.filledFor = party.applicationId;
      this.form.reset({
        way: party.way === 'held' ? 'unknown' : party.way,
        clientId: access?.clientId ?? '',
        endpointUrl: access?.endpointUrl ?? '',
        userName: access?.userName ?? '',
      });
    });
    onceMore(this.store.selectSignal(trustFeature.selectDone), () => password.reset());
  }

  save(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const { way, password, ...access } = this.form.getRawValue();
    const body: TrustWayBody = way === 'push' ? { way, ...access, ...(password === '' ? {} : { password }) } : { way };
    const id = this.told().party.applicationId;
    this.store.dispatch(trustActions.command({ command: { does: 'set way', id, body } }));
  }

  release(move: PasswordMove): void {
    const id = this.told().party.applicationId;
    this.store.dispatch(trustActions.command({ command: { does: 'release password', id, move } }));
  }
}
