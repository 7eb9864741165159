import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { recipientWay, recipientWish } from '@loyal-hinge/contract';
import type { RecipientRow, RecipientWay, RecipientWish } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { orEmpty } from '../forms/fits';
import { NumberField } from '../forms/number-field';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { noQuiet, quietOf, QuietFields, quietShape, quietValues } from './quiet-fields';
import { roundsActions, roundsFeature } from './state';

type Kind = RecipientWay['kind'];
type Security = Extract<RecipientWay, { readonly kind: 'mail' }>['security'];
const [mail, webhook] = recipientWay.options;
const kinds: readonly { readonly key: Kind; readonly word: string }[] = [
  { key: 'mail', word: 'by mail' },
  { key: 'webhook', word: 'by a request to a program' },
];
const securities: readonly { readonly key: Security; readonly word: string }[] = [
  { key: 'starttls', word: 'TLS, after the greeting' },
  { key: 'tls', word: 'TLS from the first byte' },
  { key: 'none', word: 'none: in the clear' },
];

/** Who is told when links fall and work again, and by which way. */
@Component({
  selector: 'hinge-recipient-form',
  imports: [Choose, FormSheet, NumberField, QuietFields, ReactiveFormsModule, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Tell somebody'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save recipient')"
      (sent)="save()"
      (left)="leave()"
    >
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose label="Is told" [formControl]="form.controls.kind" [choices]="kinds" />
      @if (typed().kind === 'webhook') {
        <hinge-text kind="technical" label="Address" [control]="form.controls.url">
          It gets JSON by POST, signed with HMAC-SHA-256.
        </hinge-text>
        <hinge-text kind="new password" label="Key of the signature" [control]="form.controls.secret">
          {{ kept() }}
        </hinge-text>
      } @else {
        <hinge-text kind="technical" label="Mail server" [control]="form.controls.host" />
        <hinge-number label="Port" [control]="form.controls.port" />
        <hinge-choose label="Protection" [formControl]="form.controls.security" [choices]="securities" />
        <hinge-text kind="technical" label="From" [control]="form.controls.from" />
        <hinge-text kind="technical" label="To" [control]="form.controls.to">
          Several with a comma between them.
        </hinge-text>
        <hinge-text kind="technical" label="User at the mail server" [control]="form.controls.userName">
          Empty: it wants no sign-in.
        </hinge-text>
        @if (typed().userName) {
          <hinge-text kind="new password" label="Password" [control]="form.controls.secret">{{ kept() }}</hinge-text>
        }
      }
      <hinge-number label="One message for changes within" unit="min" [control]="form.controls.groupMinutes" />
      <hinge-text label="By the clock of" [control]="form.controls.zone">
        UTC, +01:00, or a name such as Europe/Berlin.
      </hinge-text>
      <hinge-quiet-fields [controls]="form.controls" [isQuiet]="typed().isQuiet ?? false">
        what happens in them is told after them
      </hinge-quiet-fields>
      <hinge-switch label="Paused" [control]="form.controls.isPaused" />
    </hinge-form-sheet>
  `,
})
export class RecipientForm implements OnInit {
  private readonly store = inject(Store);
  readonly row = input<RecipientRow | null>(null);
  readonly running = this.store.selectSignal(roundsFeature.selectRunning);
  readonly kinds = kinds;
  readonly securities = securities;
  readonly form = contractForm(
    {
      name: recipientWish.shape.name,
      groupMinutes: recipientWish.shape.groupMinutes,
      zone: recipientWish.shape.zone,
      url: orEmpty(webhook.shape.url),
      host: orEmpty(mail.shape.host),
      port: mail.shape.port,
      from: orEmpty(mail.shape.from),
      ...quietShape,
    },
    {
      name: '',
      kind: 'mail' as Kind,
      url: '',
      host: '',
      port: 587,
      security: 'starttls' as Security,
      from: '',
      to: '',
      userName: '',
      secret: '',
      groupMinutes: 5,
      zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      ...noQuiet('22:00', '06:00'),
      isPaused: false,
    },
  );
  readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  readonly kept = (): string => (this.row()?.hasSecret ? 'Empty: the one that is kept.' : '');

  ngOnInit(): void {
    const row = this.row();
    if (!row) return;
    const { way, quiet } = row;
    this.form.patchValue({
      ...row,
      kind: way.kind,
      ...(way.kind === 'webhook' ? { url: way.url } : { ...way, to: way.to.join(', '), userName: way.userName ?? '' }),
      ...quietValues(quiet),
    });
  }

  /** The contract judges the whole: what is wrong stands at its field. */
  save(): void {
    const typed = this.form.getRawValue();
    const { name, groupMinutes, zone, isPaused, secret } = typed;
    const wish: RecipientWish = {
      name,
      way: this.way(),
      groupMinutes,
      zone,
      isPaused,
      quiet: quietOf(typed),
      secret: secret === '' ? null : secret,
    };
    const issues = recipientWish.safeParse(wish).error?.issues ?? [];
    if (issues.length === 0)
      return this.store.dispatch(roundsActions.saveRecipient({ id: this.row()?.id ?? null, wish }));
    for (const { path, message } of issues) {
      const field = path[0] === 'quiet' ? 'quietDays' : String(path[0] === 'way' ? path[1] : path[0]);
      const control = this.form.get(field) ?? this.form.controls.name;
      control.setErrors({ fits: message });
      control.markAsTouched();
    }
  }

  leave(): void {
    this.store.dispatch(roundsActions.editRecipient({ id: null }));
  }

  private way(): RecipientWay {
    const { kind, url, host, port, security, from, to, userName } = this.form.getRawValue();
    if (kind === 'webhook') return { kind, url };
    const addresses = to.split(/[,;\s]+/).filter((address) => address !== '');
    return { kind, host, port, security, from, to: addresses, userName: userName === '' ? null : userName };
  }
}
