import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { identity, link } from '@loyal-hinge/contract';
import { itemUses, judgeEndpointUrl, securityFloors, signInNameOf } from '@loyal-hinge/core';
import type { Link } from '@loyal-hinge/core';
import { Choose } from '../../forms/choose';
import { chosenOne } from '../../forms/chosen-one';
import { contractForm } from '../../forms/contract-form';
import { FieldFault } from '../../forms/field-fault';
import { judgeOnly } from '../../forms/judge-only';
import { lines, linesOf } from '../../forms/lines';
import { NumberField } from '../../forms/number-field';
import { TextField } from '../../forms/text-field';
import { chosenFrom } from './offered';
import { NeedsPreview } from './needs-preview';
import type { LookUp } from '../state';
import type { LookFor, Offered } from './offered';
import { PartSheet } from './part-sheet';
import { RowForm } from './row-form';
import { followName, neededItem, neededLine } from './typed';
import { Message } from 'primeng/message';

const schemeAlone = 'opc.tcp://';
const secondMs = 1000;
const typedMs = 400;
const mostLookedUp = 50;
const userName = identity.options[1].shape.userName;
const staleAfter = { least: 1, most: 86_400 };
const beginning = {
  id: '',
  name: '',
  clientId: '',
  serverId: '',
  endpointUrl: schemeAlone,
  needs: '',
  identity: 'user' as Link['identity']['kind'],
  userName: '',
  certificate: '',
  floor: 'signed' as Link['floor'],
  staleSeconds: 60,
};

@Component({
  selector: 'hinge-link-form',
  imports: [
    Message,
    Choose,
    FieldFault,
    NeedsPreview,
    NumberField,
    PartSheet,
    ReactiveFormsModule,
    RouterLink,
    TextField,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-part-sheet [of]="this" (complete)="save()">
      <hinge-choose
        label="Client"
        placeholder="which client?"
        [formControl]="form.controls.clientId"
        [choices]="clients().options"
        [looksElsewhere]="clients().looksElsewhere"
        (looked)="lookFor.emit({ of: 'clients', find: $event })"
      >
        <hinge-field-fault [of]="form.controls.clientId" />
      </hinge-choose>
      <hinge-choose
        label="Server"
        placeholder="which server?"
        [formControl]="form.controls.serverId"
        [choices]="servers().options"
        [looksElsewhere]="servers().looksElsewhere"
        (looked)="lookFor.emit({ of: 'servers', find: $event })"
      >
        <hinge-field-fault [of]="form.controls.serverId" />
      </hinge-choose>
      <hinge-text label="Endpoint URL" kind="technical" [control]="form.controls.endpointUrl">
        <small class="faint">opc.tcp://host:port</small>
      </hinge-text>
      @if (flaws(); as told) {
        <p-message severity="warn">
          <p>{{ told.says }}</p>
          @if (told.cleaned) {
            <p>
              As it should be: <code>{{ told.cleaned }}</code>
              <button type="button" class="act" (click)="form.controls.endpointUrl.setValue(told.cleaned)">
                Use this
              </button>
            </p>
          }
        </p-message>
      }
      <hinge-text label="Needed items" kind="lines" [control]="form.controls.needs">
        <small class="faint"
          >One a line: path below Objects, then “:” and what it is needed for ({{ uses }}). Without that: read, watch.
          Alarms are those of a folder or of Server. A pattern such as Lehr/Zone */Temperature stands for all variables
          that fit.</small
        >
      </hinge-text>
      @if (offered().matches; as told) {
        <hinge-needs-preview [told]="told" />
      }
      <hinge-choose label="Signs in" [formControl]="form.controls.identity" [choices]="identities" />
      @if (signsInAs() === 'user') {
        <hinge-text label="User name" [control]="form.controls.userName" />
      } @else if (signsInAs() === 'certificate') {
        <hinge-choose
          label="User certificate"
          placeholder="which certificate?"
          [formControl]="form.controls.certificate"
          [choices]="certificates().options"
          [looksElsewhere]="certificates().looksElsewhere"
          (looked)="lookFor.emit({ of: 'userCertificates', find: $event })"
        >
          <hinge-field-fault [of]="form.controls.certificate" />
          @if (certificates().options.length === 0) {
            <small class="faint">None is stored yet: <a routerLink="/entry/user-certificates">add one</a> first.</small>
          }
        </hinge-choose>
      }
      <hinge-choose label="Must be" [formControl]="form.controls.floor" [choices]="floors" />
      <hinge-number label="Values are stale after" unit="seconds" [control]="form.controls.staleSeconds" />
    </hinge-part-sheet>
  `,
})
export class LinkForm extends RowForm<Link> implements OnInit {
  readonly offered = input.required<Offered>();
  readonly lookFor = output<LookFor>();
  readonly lookUp = output<LookUp>();
  readonly clients = computed(() => chosenFrom('clients', this.offered()));
  readonly servers = computed(() => chosenFrom('servers', this.offered()));
  readonly certificates = computed(() => chosenFrom('userCertificates', this.offered()));
  readonly uses = itemUses.join(', ');
  readonly identities = [
    { key: 'anonymous', word: 'anonymously' },
    { key: 'user', word: 'as a user' },
    { key: 'certificate', word: 'with a user certificate' },
  ] as const;
  readonly floors = securityFloors.map((key) => ({ key, word: key === 'any' ? 'nothing in particular' : key }));
  override readonly form = contractForm(
    {
      ...link.shape,
      clientId: chosenOne,
      serverId: chosenOne,
      endpointUrl: link.shape.endpointUrl.refine((url) => url !== schemeAlone, 'An endpoint URL is needed.'),
      needs: lines(link.shape.needs, neededItem),
      identity: undefined,
      userName,
      certificate: chosenOne,
      staleSeconds: {
        safeParse: (value) =>
          typeof value === 'number' && value >= staleAfter.least && value <= staleAfter.most
            ? {}
            : { error: { issues: [{ message: `From ${staleAfter.least} to ${staleAfter.most} seconds.` }] } },
      },
    },
    beginning,
  );
  readonly signsInAs = toSignal(this.form.controls.identity.valueChanges, { initialValue: beginning.identity });
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  /** What is wrong with the URL, and how it should be. */
  readonly flaws = computed(() => {
    const { endpointUrl: url = schemeAlone, serverId } = this.typed();
    if (url === schemeAlone) return null;
    const server = this.offered().choices.servers?.choices.find(({ id }) => id === serverId);
    const { flaws, cleaned } = judgeEndpointUrl(url, server?.port ?? undefined);
    return flaws.length === 0 ? null : { says: flaws.map((flaw) => flaw.says).join(' '), cleaned };
  });

  private readonly toLookUp = computed<LookUp | null>(() => {
    const { serverId = '', needs = '', identity: kind, userName: name = '', certificate = '' } = this.typed();
    const paths = linesOf(needs)
      .map((line) => neededItem(line).path)
      .filter((path) => path.length <= 1000)
      .slice(0, mostLookedUp);
    if (serverId === '' || paths.length === 0) return null;
    return { serverId, paths, userName: signInNameOf(identityOf(kind ?? 'anonymous', name, certificate)) };
  });

  constructor() {
    super();
    const { identity: kind, userName: name, certificate } = this.form.controls;
    const judged = { anonymous: [], user: [name], certificate: [certificate] };
    kind.valueChanges.subscribe((chosen) => judgeOnly(judged, chosen));
    judgeOnly(judged, beginning.identity);
    // What stands in the fields is looked up once nobody types any more.
    let waiting: ReturnType<typeof setTimeout> | undefined;
    let before = '';
    effect(() => {
      const wish = this.toLookUp();
      const text = JSON.stringify(wish);
      if (text === before) return;
      before = text;
      clearTimeout(waiting);
      if (wish) waiting = setTimeout(() => this.lookUp.emit(wish), typedMs);
    });
    inject(DestroyRef).onDestroy(() => clearTimeout(waiting));
  }

  ngOnInit(): void {
    const row = this.row();
    this.form.reset(
      row === null
        ? beginning
        : {
            ...row,
            needs: row.needs.map(neededLine).join('\n'),
            identity: row.identity.kind,
            userName: row.identity.kind === 'user' ? row.identity.userName : '',
            certificate: row.identity.kind === 'certificate' ? row.identity.certificate : '',
            staleSeconds: row.staleAfterMs / secondMs,
          },
    );
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }

  save(): void {
    const row = this.row();
    const { identity: kind, userName: name, certificate, needs, staleSeconds, ...typed } = this.form.getRawValue();
    this.saved.emit({
      ...typed,
      kind: 'ua',
      pinnedAddress: row?.pinnedAddress ?? null,
      chosenEndpoint: row?.chosenEndpoint ?? null,
      needs: linesOf(needs).map(neededItem),
      identity: identityOf(kind, name, certificate),
      staleAfterMs: Math.round(staleSeconds * secondMs),
    });
  }
}

function identityOf(kind: Link['identity']['kind'], userName: string, certificate: string): Link['identity'] {
  if (kind === 'user') return { kind, userName };
  return kind === 'certificate' ? { kind, certificate } : { kind };
}
