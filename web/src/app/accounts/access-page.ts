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
import { byNumber } from '@loyal-hinge/core';
import type { AccessChange, RoleRule, UserFlag } from '@loyal-hinge/core';
import type { AccessView, RoleView } from '@loyal-hinge/contract';
import { EntryHead } from '../entry/entry-head';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { AccessWhatIf } from './access-what-if';
import { flagWords, nameWords } from './account-words';
import { RuleForm } from './rule-form';
import { ServerConnections } from './server-connections';
import { ServerReports } from './server-reports';
import { accountsActions, accountsFeature, isRunning } from './state';
import { TrustedUsers } from './trusted-users';
import type { UserTrust } from './trusted-users';
import { UserForm } from './user-form';

type ServerUserView = NonNullable<AccessView['users']>[number];

const roleColumns: readonly Column<RoleView>[] = [
  { key: 'name', title: 'Role', text: ({ name }) => name },
  { key: 'rules', title: 'Given to, and limited to', text: ({ rules }) => rules.map(({ says }) => says).join('; ') },
  { key: 'links', title: 'Links that get it', text: () => '', onlyShown: true },
];
const userColumns: readonly Column<ServerUserView>[] = [
  { key: 'userName', title: 'User', text: ({ userName }) => userName, mono: true, short: true },
  { key: 'state', title: 'State', text: ({ flags }) => flags.map((flag) => flagWords[flag]).join(', ') || 'enabled' },
  { key: 'description', title: 'Description', text: ({ description }) => description },
  {
    key: 'links',
    title: 'Links',
    text: ({ links, administers }) => (administers ? 'Loyal Hinge, as administrator' : String(links)),
    order: ({ links }) => links,
  },
];

/** Roles and users of one server: who is given what, and changes that are tried out before they are proposed. */
@Component({
  selector: 'hinge-access-page',
  imports: [
    AccessWhatIf,
    EntryHead,
    Ledger,
    LedgerCell,
    Moment,
    RouterLink,
    RuleForm,
    UserForm,
    Waiting,
    ServerConnections,
    ServerReports,
    TrustedUsers,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" [otherProblem]="problem()">
        @if (access()?.seenAt; as at) {
          <span class="faint">read <hinge-moment [at]="at" show="near" /></span>
        }
        @if (access()?.canBeRead) {
          <button type="button" class="act main" [disabled]="!mayAct() || isReading()" (click)="read()">
            {{ isReading() ? 'Reading …' : access()?.seenAt ? 'Read again' : 'Read roles and users' }}
          </button>
        }
      </hinge-entry-head>
      @if (access(); as known) {
        @if (known.says) {
          <p class="fails">{{ known.says }}</p>
        }
        @if (known.seenAt === null) {
          <p class="empty">
            @if (known.canBeRead) {
              Roles and users of {{ known.server.name }} are read as its administrator, with the access that is stored
              for push management. Nothing is changed there by that.
            } @else {
              No administrator’s access to {{ known.server.name }} is stored, so its roles and users can’t be read. Set
              one on the <a [routerLink]="['/trust/lists', known.server.id]">Trust page</a>, as a way to its lists.
            }
          </p>
        } @else {
          <div class="with-what-if">
            <div>
              @for (words of known.unread; track words) {
                <p class="weak">Could not be read: {{ words }}</p>
              }
              <h2>Roles</h2>
              <hinge-ledger
                [columns]="roleColumns"
                [rows]="usedRoles()"
                [idOf]="idOfRole"
                [plain]="true"
                empty="The server gives no role to anybody."
              >
                <ng-template hingeCell="rules" [hingeCellOf]="usedRoles()" let-role>
                  @for (one of role.rules; track one.says) {
                    <span class="rule" [class.gone]="isDrafted(role, one.rule)">
                      <span>{{ limitWords(role, one.rule) }}{{ one.says }}</span>
                      @if (!role.isFixed) {
                        <button type="button" class="plain" [disabled]="!mayAct()" (click)="removeRule(role, one.rule)">
                          {{ isDrafted(role, one.rule) ? 'Undo' : 'Remove' }}
                        </button>
                      }
                    </span>
                  } @empty {
                    <span class="faint">rules that the server does not show</span>
                  }
                </ng-template>
                <ng-template hingeCell="links" [hingeCellOf]="usedRoles()" let-role>
                  @for (session of holdersOf(role.name).slice(0, mostNamed); track session.link.id) {
                    <a class="link" [routerLink]="['/links', session.link.id]"
                      >{{ session.link.name }} <span class="faint">as {{ nameOf(session.userName) }}</span></a
                    >
                  } @empty {
                    <span class="faint">none</span>
                  }
                  @if (holdersOf(role.name).length > mostNamed) {
                    <span class="faint">and {{ holdersOf(role.name).length - mostNamed }} more</span>
                  }
                </ng-template>
              </hinge-ledger>
              @if (idleRoles(); as names) {
                <p class="faint">Given to nobody: {{ names }}.</p>
              }
              @if (opened() === 'rule') {
                <hinge-rule-form
                  [serverId]="known.server.id"
                  [roles]="known.roles"
                  (made)="add($event)"
                  (left)="opened.set('')"
                />
              } @else {
                <button type="button" class="act" [disabled]="!mayAct()" (click)="opened.set('rule')">
                  Add a rule …
                </button>
              }
              <h2>Users</h2>
              @if (known.users; as users) {
                <hinge-ledger
                  [columns]="userColumns"
                  [rows]="users"
                  [idOf]="idOfUser"
                  [plain]="true"
                  empty="The server has no user."
                >
                  <ng-template hingeCell="acts" [hingeCellOf]="users" let-user>
                    <button type="button" class="plain" [disabled]="!mayAct()" (click)="turn(user)">
                      {{ user.flags.includes('Disabled') ? 'Enable' : 'Disable' }}
                    </button>
                    <button
                      type="button"
                      class="plain"
                      [disabled]="!mayAct() || user.flags.includes('NoDelete')"
                      (click)="remove(user)"
                    >
                      Remove
                    </button>
                  </ng-template>
                </hinge-ledger>
                @if (opened() === 'user') {
                  <hinge-user-form [serverId]="known.server.id" (left)="opened.set('')" />
                } @else {
                  <button type="button" class="act" [disabled]="!mayAct()" (click)="opened.set('user')">
                    Add a user …
                  </button>
                }
              } @else {
                <p class="faint">The server has no user management (Part 18), or does not show it.</p>
              }
              <h2>Connected</h2>
              <hinge-server-connections [connected]="known.connected" />
              <h2>User certificates that it trusts</h2>
              <hinge-trusted-users
                [serverId]="known.server.id"
                [trusted]="known.userCertificates"
                [stored]="stored() ?? []"
                [drafts]="drafts()"
                [mayAct]="mayAct()"
                (turned)="turnTrust($event)"
              />
            </div>
            <hinge-access-what-if
              [server]="known.server.name"
              [drafts]="drafts()"
              [turns]="turns()"
              [mayPropose]="mayAct()"
              (undo)="undo($event)"
              (clear)="clear()"
              (propose)="propose()"
            />
          </div>
        }
        @if (reports(); as told) {
          <h2 class="reports">What it reports of itself</h2>
          <hinge-server-reports [serverId]="known.server.id" [reports]="told" [isBusy]="isListening()" />
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
      margin-top: 0;
    }
    h2.reports {
      margin-top: 1.4rem;
    }
    p.faint {
      margin: 0.4rem 0 0;
      font-size: 0.9rem;
    }
    .rule {
      display: flex;
      justify-content: space-between;
      gap: 0.8rem;
      align-items: baseline;
    }
    .rule.gone span {
      text-decoration: line-through;
      color: var(--faint);
    }
    a.link {
      display: block;
    }
    button.act:not(.main),
    hinge-rule-form,
    hinge-user-form {
      display: block;
      margin-top: 0.6rem;
    }
  `,
})
export class AccessPage {
  private readonly store = inject(Store);
  readonly serverId = input.required<string>();
  readonly access = this.store.selectSignal(accountsFeature.selectAccess);
  readonly problem = this.store.selectSignal(accountsFeature.selectProblem);
  readonly drafts = this.store.selectSignal(accountsFeature.selectDrafts);
  readonly turns = this.store.selectSignal(accountsFeature.selectTurns);
  readonly isReading = this.store.selectSignal(isRunning('read'));
  readonly reports = this.store.selectSignal(accountsFeature.selectReports);
  readonly isListening = this.store.selectSignal(isRunning('listen'));
  readonly mayAct = may('engineer');
  readonly opened = signal<'' | 'rule' | 'user'>('');
  readonly roleColumns = roleColumns;
  readonly userColumns = userColumns;
  readonly mostNamed = 3;
  readonly nameOf = nameWords;
  readonly idOfRole = ({ nodeId }: RoleView): string => nodeId;
  readonly idOfUser = ({ userName }: ServerUserView): string => userName;
  readonly stored = this.store.selectSignal(accountsFeature.selectCertificates);
  private readonly holders = computed(() => {
    const byRole = new Map<string, AccessView['sessions']>();
    for (const session of this.access()?.sessions ?? [])
      for (const { role, verdict } of session.roles)
        if (verdict === 'given') byRole.set(role, [...(byRole.get(role) ?? []), session]);
    return byRole;
  });
  private readonly isUsed = ({ rules, isCustom }: RoleView): boolean => rules.length > 0 || isCustom;
  readonly usedRoles = computed(() => (this.access()?.roles ?? []).filter(this.isUsed));
  readonly idleRoles = computed(() =>
    (this.access()?.roles ?? [])
      .filter((role) => !this.isUsed(role))
      .map(({ name }) => name)
      .join(', '),
  );
  readonly headline = computed(() => {
    const known = this.access();
    if (!known) return 'Roles and users';
    const { server, seenAt, roles, users } = known;
    if (seenAt === null) return `Roles and users of ${server.name} are not known.`;
    const given = roles.filter(({ name }) => this.holdersOf(name).length > 0).length;
    const idle = (users ?? []).filter(
      ({ links, flags, administers }) => links === 0 && !administers && !flags.includes('Disabled'),
    ).length;
    const clauses = [
      given === 0
        ? `${server.name} gives none of its roles to a link`
        : byNumber(given, `${server.name} gives # role to links`, `${server.name} gives # roles to links`),
      ...(idle === 0
        ? []
        : [byNumber(idle, '# of its users is used by no link', '# of its users are used by no link')]),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    effect(() => {
      const serverId = this.serverId();
      untracked(() => {
        this.store.dispatch(accountsActions.showAccess({ serverId }));
        this.store.dispatch(accountsActions.showCertificates());
      });
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(accountsActions.leave()));
  }

  holdersOf = (role: string): AccessView['sessions'] => this.holders().get(role) ?? [];

  /** What is listed may be those that are left out. */
  limitWords({ applications, endpoints }: RoleView, rule: RoleRule): string {
    const limit = rule.about === 'application' ? applications : rule.about === 'endpoint' ? endpoints : null;
    if (!limit) return '';
    return limit.exclude ? 'not for ' : 'only for ';
  }

  isDrafted = ({ nodeId }: RoleView, rule: RoleRule): boolean =>
    this.drafts().some(
      (draft) =>
        draft.kind === 'remove-role-rule' &&
        draft.roleId === nodeId &&
        JSON.stringify(draft.rule) === JSON.stringify(rule),
    );

  /** A second time takes it back. */
  turnTrust(change: UserTrust): void {
    const isDrafted = this.drafts().some((draft) => 'thumbprint' in draft && draft.thumbprint === change.thumbprint);
    this.store.dispatch(isDrafted ? accountsActions.dropDraft({ change }) : accountsActions.draft({ change }));
  }

  removeRule(role: RoleView, rule: RoleRule): void {
    const { nodeId, name } = role;
    const change = { kind: 'remove-role-rule', serverId: this.serverId(), roleId: nodeId, role: name, rule } as const;
    this.store.dispatch(
      this.isDrafted(role, rule) ? accountsActions.dropDraft({ change }) : accountsActions.draft({ change }),
    );
  }

  add(change: AccessChange): void {
    this.opened.set('');
    this.store.dispatch(accountsActions.draft({ change }));
  }

  turn(user: ServerUserView): void {
    const others = user.flags.filter((flag) => flag !== 'Disabled');
    this.changeUser(user, user.flags.includes('Disabled') ? others : [...others, 'Disabled']);
  }

  remove = (user: ServerUserView): void => this.changeUser(user, null);

  private changeUser({ userName, flags, description }: ServerUserView, after: readonly UserFlag[] | null): void {
    this.store.dispatch(
      accountsActions.draft({
        change: {
          kind: 'change-user',
          serverId: this.serverId(),
          userName,
          before: { flags, description },
          after: after && { flags: after, description },
          secretId: null,
        },
      }),
    );
  }

  read = (): void => this.store.dispatch(accountsActions.read({ serverId: this.serverId() }));
  undo = (change: AccessChange): void => this.store.dispatch(accountsActions.dropDraft({ change }));
  clear = (): void => this.store.dispatch(accountsActions.dropDrafts());

  propose(): void {
    const linkIds = (this.turns().shown?.turns ?? []).flatMap(({ link }) => (link ? [link.id] : []));
    const onlyTrust = this.drafts().every((change) => 'thumbprint' in change);
    const server = this.access()?.server.name ?? '';
    const why = 'Tried out on the page of the server’s roles and users.';
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: onlyTrust
            ? `Change the user certificates that ${server} trusts`
            : `Change roles and users of ${server}`,
          lines: this.drafts().map((change) => ({ change, why, linkIds })),
        },
      }),
    );
  }
}
