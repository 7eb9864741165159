import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { clientApplication, serverApplication } from '@loyal-hinge/contract';
import { securityModes, securityPolicyNames } from '@loyal-hinge/core';
import type { Application, SecurityMode, SecurityPolicyName } from '@loyal-hinge/core';
import { Choose, asChoices } from '../../forms/choose';
import { ChooseSome } from '../../forms/choose-some';
import { chosenOne } from '../../forms/chosen-one';
import { contractForm } from '../../forms/contract-form';
import { FieldFault } from '../../forms/field-fault';
import { lines, linesOf } from '../../forms/lines';
import { TextField } from '../../forms/text-field';
import { chosenFrom } from './offered';
import type { LookFor, Offered } from './offered';
import { PartSheet } from './part-sheet';
import { RowForm } from './row-form';
import { followName } from './typed';

const beginning = {
  id: '',
  name: '',
  machineId: '',
  applicationUri: '',
  kind: 'server' as Application['kind'],
  ports: '4840',
  securityPolicies: ['Basic256Sha256', 'Aes256_Sha256_RsaPss'] as SecurityPolicyName[],
  securityModes: ['Sign', 'SignAndEncrypt'] as SecurityMode[],
};

@Component({
  selector: 'hinge-application-form',
  imports: [Choose, ChooseSome, FieldFault, PartSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-part-sheet [of]="this" (complete)="save()">
      <hinge-choose
        label="Machine"
        placeholder="which machine?"
        [formControl]="form.controls.machineId"
        [choices]="machines().options"
        [looksElsewhere]="machines().looksElsewhere"
        (looked)="lookFor.emit({ of: 'machines', find: $event })"
      >
        <hinge-field-fault [of]="form.controls.machineId" />
      </hinge-choose>
      <hinge-text label="Application URI" kind="technical" [control]="form.controls.applicationUri" />
      <hinge-choose label="Kind" [formControl]="form.controls.kind" [choices]="kinds" [disabled]="row() !== null" />
      @if (kind() === 'server') {
        <hinge-text label="Known ports" kind="lines" [control]="form.controls.ports">
          <small class="faint">One a line.</small>
        </hinge-text>
      } @else {
        <hinge-choose-some
          label="Security policies that it has"
          placeholder="which policies?"
          [control]="form.controls.securityPolicies"
          [choices]="policies"
        />
        <hinge-choose-some
          label="Modes that it has"
          placeholder="which modes?"
          [control]="form.controls.securityModes"
          [choices]="modes"
        />
      }
    </hinge-part-sheet>
  `,
})
export class ApplicationForm extends RowForm<Application> implements OnInit {
  readonly offered = input.required<Offered>();
  readonly lookFor = output<LookFor>();
  readonly machines = computed(() => chosenFrom('machines', this.offered()));
  readonly kinds = asChoices(['server', 'client']);
  readonly policies = [...asChoices(securityPolicyNames)];
  readonly modes = [...asChoices(securityModes)];
  override readonly form = contractForm(
    {
      id: serverApplication.shape.id,
      name: serverApplication.shape.name,
      machineId: chosenOne,
      applicationUri: serverApplication.shape.applicationUri,
      ports: lines(serverApplication.shape.ports, Number),
      securityPolicies: clientApplication.shape.securityPolicies,
      securityModes: clientApplication.shape.securityModes,
    },
    beginning,
  );
  readonly kind = toSignal(this.form.controls.kind.valueChanges, { initialValue: beginning.kind });

  constructor() {
    super();
    const { kind, ports, securityPolicies, securityModes: modes } = this.form.controls;
    // Fields of the other kind are not judged.
    kind.valueChanges.subscribe((chosen) => {
      const [asked, others] =
        chosen === 'server' ? [[ports], [securityPolicies, modes]] : [[securityPolicies, modes], [ports]];
      asked.forEach((control) => control.enable());
      others.forEach((control) => control.disable());
    });
  }

  ngOnInit(): void {
    const row = this.row();
    this.form.reset(
      row === null
        ? beginning
        : row.kind === 'server'
          ? { ...row, ports: row.ports.join('\n') }
          : { ...row, securityPolicies: [...row.securityPolicies], securityModes: [...row.securityModes] },
    );
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }

  save(): void {
    const { kind, ports, securityPolicies, securityModes: modes, ...placed } = this.form.getRawValue();
    this.saved.emit(
      kind === 'server'
        ? { kind, ...placed, ports: linesOf(ports).map(Number) }
        : { kind, ...placed, securityPolicies, securityModes: modes },
    );
  }
}
