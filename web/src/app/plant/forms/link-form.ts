import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { classicCalls, identity, link } from '@loyal-hinge/contract';
import {
  callLevels,
  itemUses,
  judgeLinkUrl,
  linkKindIds,
  linkKinds,
  securityFloors,
  signInNameOf,
  usualCalls,
} from '@loyal-hinge/core';
import type { CallLevel, Link, LinkKindId } from '@loyal-hinge/core';
import { Choose, asChoices } from '../../forms/choose';
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

const schemes: Readonly<Record<LinkKindId, string>> = { ua: 'opc.tcp://', classic: 'classic://' };
const schemeAlone: ReadonlySet<string> = new Set(Object.values(schemes));
const secondMs = 1000;
const typedMs = 400;
const mostLookedUp = 50;
const userName = identity.options[1].shape.userName;
const staleAfter = { least: 1, most: 86_400 };
const signingIn = [
  { key: 'anonymous', word: 'anonymously' },
  { key: 'user', word: 'as a user' },
  { key: 'certificate', word: 'with a user certificate' },
] as const;
const beginning = {
  id: '',
  kind: 'ua' as LinkKindId,
  name: '',
  clientId: '',
  serverId: '',
  endpointUrl: schemes.ua,
  needs: '',
  identity: 'user' as Link['identity']['kind'],
  userName: '',
  certificate: '',
  floor: 'signed' as Link['floor'],
  staleSeconds: 60,
  level: usualCalls.level as CallLevel,
  updateRateMs: usualCalls.updateRateMs,
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
        label="Protocol"
        [formControl]="form.controls.kind"
        [choices]="protocols"
        [disabled]="row() !== null"
      />
      <hinge-choose
        label="Client"
        placeholder="which client?"
        [formControl]="form.controls.clientId"
        [choices]="clients().options"
        [looksElsewhere]="clients().looksElsewhere"
        (looked)="lookFor.emit({ of: 'clients', find: $event, speaks: kind() })"
      >
        <hinge-field-fault [of]="form.controls.clientId" />
      </hinge-choose>
      <hinge-choose
        label="Server"
        placeholder="which server?"
        [formControl]="form.controls.serverId"
        [choices]="servers().options"
        [looksElsewhere]="servers().looksElsewhere"
        (looked)="lookFor.emit({ of: 'servers', find: $event, speaks: kind() })"
      >
        <hinge-field-fault [of]="form.controls.serverId" />
      </hinge-choose>
      <hinge-text
        [label]="kind() === 'ua' ? 'Endpoint URL' : 'Address'"
        kind="technical"
        [control]="form.controls.endpointUrl"
      >
        <small class="faint">{{
          kind() === 'ua'
            ? 'opc.tcp://host:port'
            : 'classic://host:135/ and the server’s class, by its ProgID or CLSID. The port is that of the mapper.'
        }}</small>
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
        @if (kind() === 'ua') {
          <small class="faint"
            >One a line: path below Objects, then “:” and what it is needed for ({{ uses }}). Without that: read, watch.
            Alarms are those of a folder or of Server. A pattern such as Lehr/Zone */Temperature stands for all
            variables that fit.</small
          >
        } @else {
          <small class="faint"
            >One a line: item ID as the server names it, then “:” and what it is needed for (read, watch, write).
            Without that: read, watch.</small
          >
        }
      </hinge-text>
      @if (offered().matches; as told) {
        <hinge-needs-preview [told]="told" />
      }
      <hinge-choose label="Signs in" [formControl]="form.controls.identity" [choices]="identities()" />
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
      @if (kind() === 'ua') {
        <hinge-choose label="Must be" [formControl]="form.controls.floor" [choices]="floors" />
      } @else {
        <hinge-choose label="Calls at level" [formControl]="form.controls.level" [choices]="levels" />
        <hinge-number label="Changes are wanted every" unit="ms" [control]="form.controls.updateRateMs" />
      }
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
  readonly protocols = linkKindIds.map((key) => ({ key, word: linkKinds[key].title }));
  readonly levels = [...asChoices(callLevels)];
  readonly identities = computed(() =>
    signingIn.filter(({ key }) => this.kind() === 'ua' || key !== 'certificate').map((one) => ({ ...one })),
  );
  readonly floors = securityFloors.map((key) => ({ key, word: key === 'any' ? 'nothing in particular' : key }));
  override readonly form = contractForm(
    {
      ...link.shape,
      clientId: chosenOne,
      serverId: chosenOne,
      endpointUrl: link.shape.endpointUrl.refine((url) => !schemeAlone.has(url), 'An address is needed.'),
      needs: lines(link.shape.needs, neededItem),
      identity: undefined,
      kind: undefined,
      level: classicCalls.shape.level,
      updateRateMs: classicCalls.shape.updateRateMs,
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
  readonly kind = toSignal(this.form.controls.kind.valueChanges, { initialValue: beginning.kind });
  readonly signsInAs = toSignal(this.form.controls.identity.valueChanges, { initialValue: beginning.identity });
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  /** What is wrong with the URL, and how it should be. */
  readonly flaws = computed(() => {
    const { endpointUrl: url = '', serverId, kind = 'ua' } = this.typed();
    if (url === '' || schemeAlone.has(url)) return null;
    const server = this.offered().choices.servers?.choices.find(({ id }) => id === serverId);
    const { flaws, cleaned } = judgeLinkUrl(kind, url, server?.port ?? undefined);
    return flaws.length === 0 ? null : { says: flaws.map((flaw) => flaw.says).join(' '), cleaned };
  });

  private readonly toLookUp = computed<LookUp | null>(() => {
    const { serverId = '', needs = '', identity: signsIn, userName: name = '', certificate = '' } = this.typed();
    const paths = linesOf(needs)
      .map((line) => neededItem(line).path)
      .filter((path) => path.length <= 1000)
      .slice(0, mostLookedUp);
    // What is known of items are nodes of OPC UA.
    if (serverId === '' || paths.length === 0 || this.kind() !== 'ua') return null;
    return { serverId, paths, userName: signInNameOf(identityOf(signsIn ?? 'anonymous', name, certificate)) };
  });

  constructor() {
    super();
    const { kind, identity: signsIn, userName: name, certificate, endpointUrl } = this.form.controls;
    const judged = { anonymous: [], user: [name], certificate: [certificate] };
    signsIn.valueChanges.subscribe((chosen) => judgeOnly(judged, chosen));
    judgeOnly(judged, beginning.identity);
    kind.valueChanges.subscribe((chosen) => {
      if (schemeAlone.has(endpointUrl.value)) endpointUrl.setValue(schemes[chosen]);
      if (chosen === 'classic' && signsIn.value === 'certificate') signsIn.setValue('user');
      this.lookFor.emit({ of: 'clients', find: '', speaks: chosen });
      this.lookFor.emit({ of: 'servers', find: '', speaks: chosen });
    });
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
            ...(row.classic ?? usualCalls),
          },
    );
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }

  save(): void {
    const row = this.row();
    const raw = this.form.getRawValue();
    const { identity: signsIn, userName: name, certificate, needs, staleSeconds, level, updateRateMs, ...typed } = raw;
    const isClassic = typed.kind === 'classic';
    this.saved.emit({
      ...typed,
      pinnedAddress: row?.pinnedAddress ?? null,
      chosenEndpoint: row?.chosenEndpoint ?? null,
      needs: linesOf(needs).map(neededItem),
      identity: identityOf(signsIn, name, certificate),
      floor: isClassic ? 'any' : typed.floor,
      staleAfterMs: Math.round(staleSeconds * secondMs),
      ...(isClassic ? { classic: { level, updateRateMs } } : {}),
    });
  }
}

function identityOf(kind: Link['identity']['kind'], userName: string, certificate: string): Link['identity'] {
  if (kind === 'user') return { kind, userName };
  return kind === 'certificate' ? { kind, certificate } : { kind };
}
