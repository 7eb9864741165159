import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { securityPolicyNames, tokenTypes, tokenWords } from '@loyal-hinge/core';
import type { SecurityMode, SecurityPolicyName, TokenType } from '@loyal-hinge/core';
import { Choose, asChoices } from '../forms/choose';
import type { Choice } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { FormSheet } from '../shell/form-sheet';
import { keyOf } from './rules';

/** Names a door that a server does not have, to try out what it would do. */
@Component({
  selector: 'hinge-open-door',
  imports: [Choose, FieldFault, FormSheet, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet heading="Open a door" does="Try it out" [form]="form" (sent)="send()" (left)="left.emit()">
      <p class="faint">Nothing is changed at the server yet.</p>
      <hinge-choose label="Server" [formControl]="form.controls.serverId" [choices]="servers()">
        <hinge-field-fault [of]="form.controls.serverId" />
      </hinge-choose>
      <hinge-choose label="Security policy" [formControl]="form.controls.policy" [choices]="policies" />
      <hinge-choose label="Mode" [formControl]="form.controls.mode" [choices]="modes" />
      <hinge-choose label="Kind of user" [formControl]="form.controls.token" [choices]="tokens" />
    </hinge-form-sheet>
  `,
})
export class OpenDoor {
  readonly servers = input.required<readonly Choice[]>();
  /** The key of the door. */
  readonly opened = output<string>();
  readonly left = output();
  readonly policies = [...asChoices(securityPolicyNames.filter((name) => name !== 'None'))];
  readonly modes = asChoices(['Sign', 'SignAndEncrypt'] as const);
  readonly tokens = tokenTypes.map((key) => ({ key, word: tokenWords[key] }));
  readonly form = contractForm(
    { serverId: chosenOne },
    {
      serverId: '',
      policy: 'Basic256Sha256' as SecurityPolicyName,
      mode: 'SignAndEncrypt' as SecurityMode,
      token: 'UserName' as TokenType,
    },
  );

  send(): void {
    this.opened.emit(keyOf(this.form.getRawValue()));
  }
}
