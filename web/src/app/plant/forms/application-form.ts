import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { clientApplication, serverApplication, uaApplicationUri } from '@loyal-hinge/contract';
import {
  linkKindIds,
  linkKinds,
  registeredMapperPort,
  registeredPort,
  securityModes,
  securityPolicyNames,
} from '@loyal-hinge/core';
import type { Application, LinkKindId, SecurityMode, SecurityPolicyName } from '@loyal-hinge/core';
import { Choose, asChoices } from '../../forms/choose';
import { ChooseSome } from '../../forms/choose-some';
import { chosenOne } from '../../forms/chosen-one';
import { contractForm } from '../../forms/contract-form';
import { FieldFault } from '../../forms/field-fault';
import { judgeOnly } from '../../forms/judge-only';
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
  speaks: 'ua' as LinkKindId,
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
      <hinge-choose label="Kind" [formControl]="form.controls.kind" [choices]="kinds" [disabled]="row() !== null" />
      <hinge-choose
        label="Speaks"
        [formControl]="form.controls.speaks"
        [choices]="protocols"
        [disabled]="row() !== null"
      />
      @if (speaks() === 'ua') {
        <hinge-text label="Application URI" kind="technical" [control]="form.controls.applicationUri" />
      }
      @if (kind() === 'server') {
        <hinge-text
          [label]="speaks() === 'ua' ? 'Known ports' : 'Port of its machine’s mapper'"
          kind="lines"
          [control]="form.controls.ports"
        >
          <small class="faint">One a line.</small>
        </hinge-text>
      } @else if (speaks() === 'ua') {
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
  readonly protocols = linkKindIds.map((key) => ({ key, word: linkKinds[key].title }));
  readonly policies = [...asChoices(securityPolicyNames)];
  readonly modes = [...asChoices(securityModes)];
  override readonly form = contractForm(
    {
      id: serverApplication.shape.id,
      name: serverApplication.shape.name,
      machineId: chosenOne,
      applicationUri: uaApplicationUri,
      ports: lines(serverApplication.shape.ports, Number),
      securityPolicies: clientApplication.shape.securityPolicies,
      securityModes: clientApplication.shape.securityModes,
    },
    beginning,
  );
  readonly kind = toSignal(this.form.controls.kind.valueChanges, { initialValue: beginning.kind });
  readonly speaks = toSignal(this.form.controls.speaks.valueChanges, { initialValue: beginning.speaks });

  constructor() {
    super();
    const { kind, speaks, applicationUri, ports, securityPolicies, securityModes: modes } = this.form.controls;
    // Fields of another kind are not judged.
    const fields = {
      'server ua': [applicationUri, ports],
      'client ua': [applicationUri, securityPolicies, modes],
      'server classic': [ports],
      'client classic': [],
    };
    const judge = () => judgeOnly(fields, `${kind.value} ${speaks.value}`);
    kind.valueChanges.subscribe(judge);
    speaks.valueChanges.subscribe((chosen) => {
      judge();
      if (this.row() === null && ports.pristine)
        ports.setValue(String(chosen === 'ua' ? registeredPort : registeredMapperPort));
    });
  }

  ngOnInit(): void {
    const row = this.row();
    this.form.reset(
      row === null
        ? beginning
        : row.kind === 'server'
          ? { ...row, speaks: row.speaks ?? 'ua', ports: row.ports.join('\n') }
          : {
              ...row,
              speaks: row.speaks ?? 'ua',
              securityPolicies: [...row.securityPolicies],
              securityModes: [...row.securityModes],
            },
    );
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }

  save(): void {
    const { kind, ports, speaks, securityPolicies, securityModes: modes, ...typed } = this.form.getRawValue();
    const isClassic = speaks === 'classic';
    const placed = { ...typed, ...(isClassic ? { speaks, applicationUri: '' } : {}) };
    this.saved.emit(
      kind === 'server'
        ? { kind, ...placed, ports: linesOf(ports).map(Number) }
        : // A classic client has neither: calls are protected by their level.
          {
            kind,
            ...placed,
            securityPolicies: isClassic ? ['None'] : securityPolicies,
            securityModes: isClassic ? ['None'] : modes,
          },
    );
  }
}
