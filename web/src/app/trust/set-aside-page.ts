import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, toCsv, fitsWords } from '@loyal-hinge/core';
import type { SetAsideEntry } from '@loyal-hinge/contract';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { saveFile } from '../files/save-file';
import { SetAsideEntryView } from './set-aside-entry';
import { trustActions, trustFeature } from './state';
import { Tick } from '../shell/tick';
import { TrustHead } from './trust-head';
import { Waiting } from '../shell/waiting';

/** Everything that lies in rejected lists in the plant, newest first: look, compare, then trust or postpone. */
@Component({
  selector: 'hinge-set-aside-page',
  imports: [Waiting, FilterLine, RouterLink, Tick, SetAsideEntryView, TrustHead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()" />
      <hinge-filter-line
        [find]="find()"
        what="any application or name"
        (findChange)="go({ find: $event })"
        (save)="save()"
      >
        <hinge-tick words="include postponed ones" [on]="off() !== ''" (turned)="go({ off: $event ? 'too' : '' })" />
      </hinge-filter-line>
      @for (entry of shown(); track keyOf(entry)) {
        <hinge-set-aside-entry
          [entry]="entry"
          [asking]="asking() === keyOf(entry)"
          (ask)="asking.set(keyOf(entry))"
          (left)="asking.set('')"
        />
      } @empty {
        @if (entries() === null) {
          <hinge-waiting />
        } @else {
          <p class="empty">
            No certificate is set aside. What servers refuse shows up when their lists are read:
            <a routerLink="/trust">read all lists</a>.
          </p>
        }
      }
    </div>
  `,
})
export class SetAsidePage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly off = input('', { transform: fromAddress });
  readonly entries = this.store.selectSignal(trustFeature.selectSetAside);
  private readonly waiting = this.store.selectSignal(trustFeature.selectWaitingAside);
  readonly asking = signal('');
  readonly keyOf = ({ holderId, thumbprint }: SetAsideEntry): string => holderId + thumbprint;
  readonly shown = computed(() => {
    const fits = fitsWords(this.find());
    return (this.entries() ?? []).filter(
      (entry) =>
        (this.off() !== '' || !entry.dismissed) &&
        fits(entry.holder, entry.certificate.subject, entry.claims, entry.thumbprint),
    );
  });
  readonly headline = computed(() => {
    if (this.entries() === null) return 'Set aside';
    const blocking = (this.entries() ?? []).filter(({ blocks, dismissed }) => blocks.length > 0 && !dismissed).length;
    const waiting = this.waiting();
    if (waiting === 0) return 'No certificate is set aside.';
    const clauses = [
      byNumber(waiting, '# certificate is set aside', '# certificates are set aside'),
      blocking === 0 ? 'none blocks a link' : byNumber(blocking, '# blocks a link', '# block a link'),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'setAside' } }));
  }

  save(): void {
    const header = [
      'set aside by',
      'certificate',
      'thumbprint',
      'says it is',
      'issuer',
      'valid until',
      'blocks',
      'seen since',
    ];
    const rows = this.shown().map((entry) => [
      entry.holder,
      entry.certificate.subject,
      entry.thumbprint,
      entry.claims ?? '',
      entry.certificate.issuer,
      entry.certificate.notAfter,
      entry.blocks.map(({ name }) => name).join('; '),
      entry.since,
    ]);
    saveFile('set-aside.csv', 'text/csv', toCsv(header, rows));
  }
}
