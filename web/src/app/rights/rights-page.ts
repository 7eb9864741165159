import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, listed } from '@loyal-hinge/core';
import { EntryHead } from '../entry/entry-head';
import { saveFrom } from '../files/save-from';
import { urlOf } from '../http/server';
import { may } from '../session/may';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { RightsGaps } from './rights-gaps';
import { RightsGroups } from './rights-groups';
import { reportUrlOf } from './report-url';
import { RightsSnapshotsView } from './rights-snapshots';
import { rightChoices, whoWords } from './rights-words';
import { SnapshotForm } from './snapshot-form';
import { isRunning, rightsActions, rightsFeature } from './state';

/** Who may do what with the nodes of a server: given against needed. */
@Component({
  selector: 'hinge-rights-page',
  imports: [
    ChoiceField,
    EntryHead,
    FilterLine,
    RightsGaps,
    RightsGroups,
    RightsSnapshotsView,
    RouterLink,
    SnapshotForm,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" [otherProblem]="problem()">
        @if (seen(); as nodes) {
          <span class="faint" role="status">{{ seenWords() }}</span>
        }
        @if (serverId() !== '') {
          <a class="act" [href]="reportUrl()" download>Who can write here (PDF)</a>
        }
        <a class="act" routerLink="/entry/rights/writers">In the whole plant</a>
        @if (underWay().length > 0) {
          <button type="button" class="act" [disabled]="!mayAct()" (click)="cancel()">Cancel</button>
        } @else if (serverId() !== '') {
          <button type="button" class="act main" [disabled]="!mayAct() || isBusy()" (click)="isTaking.set(true)">
            Take a snapshot …
          </button>
        }
      </hinge-entry-head>
      @if (isTaking() && rights(); as told) {
        <hinge-snapshot-form
          [serverId]="serverId()"
          [server]="told.server.name"
          [identities]="identityWords()"
          (left)="isTaking.set(false)"
        />
      }
      @if (servers(); as known) {
        @if (known.length === 0) {
          <p class="empty">
            This page shows who may read and write what on each server. It fills as soon as a link leads to a server.
          </p>
        } @else {
          <hinge-filter-line
            [find]="find()"
            what="words, or a pattern: Lehr/**"
            (findChange)="go({ find: $event })"
            (save)="save()"
          >
            <hinge-choice
              word="on"
              label="Server"
              [choices]="serverChoices()"
              [chosen]="serverId()"
              (chose)="go({ server: $event, find: '' })"
            />
            <hinge-choice
              word="where somebody may"
              label="Right"
              [choices]="rightChoices"
              [chosen]="right()"
              (chose)="go({ right: $event })"
            />
          </hinge-filter-line>
          @if (rights(); as told) {
            @if (told.nodes > 0) {
              <h2>What stands out</h2>
              <hinge-rights-gaps [gaps]="told.gaps" />
              <h2>Who may do what</h2>
              <hinge-rights-groups
                [told]="told"
                [empty]="find() !== '' || right() !== '' ? 'Nothing matches.' : 'No node is known.'"
              />
            } @else {
              <p class="empty">
                Nothing is known of this server’s nodes yet. A snapshot signs in as {{ identityWords() }}, and reads
                what may be done with each node; it writes nothing.
              </p>
            }
            <h2>Snapshots</h2>
            <hinge-rights-snapshots [snapshots]="told.snapshots" [counting]="counting()" />
          } @else if (!problem()) {
            <hinge-waiting />
          }
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    h2 {
      margin: 1.1rem 0 0.5rem;
    }
    h2:first-of-type {
      margin-top: 0.4rem;
    }
  `,
})
export class RightsPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly server = input('', { transform: fromAddress });
  readonly find = input('', { transform: fromAddress });
  readonly right = input('', { transform: fromAddress });
  readonly servers = this.store.selectSignal(rightsFeature.selectKnownServers);
  readonly rights = this.store.selectSignal(rightsFeature.selectShownRights);
  readonly problem = this.store.selectSignal(rightsFeature.selectProblem);
  readonly seen = this.store.selectSignal(rightsFeature.selectSeen);
  readonly isBusy = this.store.selectSignal(isRunning('take snapshot', 'cancel snapshot'));
  readonly isTaking = signal(false);
  /** Snapshots that the page above is made of. */
  readonly counting = computed(
    () => new Set((this.rights()?.identities ?? []).flatMap(({ snapshots }) => snapshots.map(({ id }) => id))),
  );
  readonly mayAct = may('engineer');
  readonly rightChoices = rightChoices;
  /** The one that is chosen, or else the one that was looked at last. */
  readonly serverId = computed(() => {
    const known = this.servers() ?? [];
    const newest = [...known].sort((left, right) => (right.newestAt ?? '').localeCompare(left.newestAt ?? ''))[0];
    return known.find(({ id }) => id === this.server())?.id ?? newest?.id ?? '';
  });
  readonly serverChoices = computed(() => (this.servers() ?? []).map(({ id, name }) => ({ key: id, word: name })));
  readonly underWay = computed(() => (this.rights()?.snapshots ?? []).filter(({ endedAt }) => endedAt === null));
  readonly seenWords = computed(() => byNumber(this.seen() ?? 0, '# node seen …', '# nodes seen …'));
  readonly identityWords = computed(() => {
    const names = (this.rights()?.server.identities ?? []).map(({ userName }) => whoWords(userName));
    return names.length < 2 ? listed(names) : `${listed(names)} in turn`;
  });
  readonly reportUrl = computed(() => reportUrlOf({ find: this.find(), server: this.serverId() }));
  readonly headline = computed(() => {
    const told = this.rights();
    if (!told) return 'Rights';
    const { name } = told.server;
    if (told.nodes === 0) return `Who may do what on ${name} is not known yet.`;
    const { missing, excess, anonymousWrite } = told.gapCounts;
    const clauses = [
      anonymousWrite === 0
        ? `${name}: nobody may write without a name`
        : byNumber(
            anonymousWrite,
            `${name}: anyone may write # node without a name`,
            `${name}: anyone may write # nodes without a name`,
          ),
      ...(missing === 0 ? [] : [byNumber(missing, '# needed right is missing', '# needed rights are missing')]),
      ...(excess === 0 ? [] : [byNumber(excess, '# given right is not needed', '# given rights are not needed')]),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    this.store.dispatch(rightsActions.showServers());
    effect(() => {
      const [serverId, find] = [this.serverId(), this.find()];
      const right = rightChoices.find(({ key }) => key === this.right())?.key ?? '';
      if (serverId === '') return;
      const wish = { ...(find && { find }), ...(right && { right }) };
      untracked(() => this.store.dispatch(rightsActions.look({ look: { serverId, wish } })));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(rightsActions.leave()));
  }

  cancel(): void {
    this.store.dispatch(rightsActions.cancelSnapshots({ ids: this.underWay().map(({ id }) => id) }));
  }

  save(): void {
    saveFrom(urlOf('exportRights', { path: { serverId: this.serverId() } }));
  }
}
