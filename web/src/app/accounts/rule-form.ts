import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { startWith } from 'rxjs';
import * as z from 'zod';
import { identityCriteria } from '@loyal-hinge/core';
import type { AccessChange, IdentityCriterion, RoleRule } from '@loyal-hinge/core';
import type { RoleView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';

type RuleKind = IdentityCriterion | 'limit: application' | 'limit: endpoint';

const kindWords: Readonly<Record<RuleKind, string>> = {
  UserName: 'to a user, by name',
  AuthenticatedUser: 'to every user who has signed in',
  Anonymous: 'to anonymous users',
  Application: 'to an application, by its URI',
  TrustedApplication: 'to every trusted application',
  Thumbprint: 'to a user certificate, by thumbprint',
  X509Subject: 'to a user certificate, by subject',
  Role: 'to access tokens with a role',
  GroupId: 'to access tokens of a group',
  'limit: application': 'limited by an application',
  'limit: endpoint': 'limited by an endpoint',
};

/** What is to be typed for a kind of rule; null: nothing. */
const valueWords: Readonly<Record<RuleKind, string | null>> = {
  UserName: 'User name',
  AuthenticatedUser: null,
  Anonymous: null,
  Application: 'Application URI',
  TrustedApplication: null,
  Thumbprint: 'Thumbprint',
  X509Subject: 'Subject',
  Role: 'Role in the token',
  GroupId: 'Group in the token',
  'limit: application': 'Application URI',
  'limit: endpoint': 'Endpoint URL',
};

/** Adds a rule to a role of a server: to the changes that are tried out. */
@Component({
  selector: 'hinge-rule-form',
  imports: [Choose, FieldFault, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet heading="Add a rule" does="Try it out" [form]="form" (sent)="send()" (left)="left.emit()">
      <p class="faint">Nothing is changed at the server yet.</p>
      <hinge-choose label="Role" [formControl]="form.controls.roleId" [choices]="roleChoices()">
        <hinge-field-fault [of]="form.controls.roleId" />
      </hinge-choose>
      <hinge-choose label="The role is given" [formControl]="form.controls.kind" [choices]="kinds()" />
      @if (valueLabel(); as label) {
        <hinge-text [label]="label" kind="technical" [control]="form.controls.value" />
      }
    </hinge-form-sheet>
  `,
})
export class RuleForm {
  readonly serverId = input.required<string>();
  readonly roles = input.required<readonly RoleView[]>();
  readonly made = output<AccessChange>();
  readonly left = output();
  readonly form = contractForm(
    { roleId: chosenOne, value: z.string().trim().min(1, 'This is needed.').max(500) },
    { roleId: '', kind: 'UserName' as RuleKind, value: '' },
  );
  private readonly kind = toSignal(this.form.controls.kind.valueChanges.pipe(startWith('UserName' as RuleKind)), {
    requireSync: true,
  });
  private readonly roleId = toSignal(this.form.controls.roleId.valueChanges, { initialValue: '' });
  readonly roleChoices = computed(() =>
    this.roles()
      .filter(({ isFixed }) => !isFixed)
      .map(({ nodeId, name }) => ({ key: nodeId, word: name })),
  );
  /** Limits are there where the server has them. */
  readonly kinds = computed(() => {
    const role = this.roles().find(({ nodeId }) => nodeId === this.roleId());
    const limits = [
      ...(role?.applications ? (['limit: application'] as const) : []),
      ...(role?.endpoints ? (['limit: endpoint'] as const) : []),
    ];
    const order: readonly RuleKind[] = ['UserName', ...identityCriteria.filter((one) => one !== 'UserName'), ...limits];
    return order.map((key) => ({ key, word: kindWords[key] }));
  });
  readonly valueLabel = computed(() => valueWords[this.kind()]);

  constructor() {
    this.form.controls.kind.valueChanges.subscribe((kind) => {
      const { value } = this.form.controls;
      if (valueWords[kind] === null) value.disable({ emitEvent: false });
      else value.enable({ emitEvent: false });
    });
  }

  send(): void {
    const { roleId, kind, value } = this.form.getRawValue();
    const role = this.roles().find(({ nodeId }) => nodeId === roleId)?.name ?? '';
    this.made.emit({
      kind: 'add-role-rule',
      serverId: this.serverId(),
      roleId,
      role,
      rule: ruleOf(kind, value.trim()),
    });
  }
}

function ruleOf(kind: RuleKind, value: string): RoleRule {
  if (kind === 'limit: application') return { about: 'application', uri: value };
  if (kind === 'limit: endpoint')
    return { about: 'endpoint', url: value, mode: null, policyUri: '', transportProfileUri: '' };
  return { about: 'identity', criterion: kind, criteria: valueWords[kind] === null ? '' : value };
}
