import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { GiveIdentity } from './give-identity';
import { OwnCertificateForm } from './own-certificate';
import { isRunning, settingsActions, settingsFeature } from './state';

/** How the plant is dialled, and as whom. */
@Component({
  selector: 'hinge-settings-page',
  imports: [FormsModule, ProblemNotice, GiveIdentity, OwnCertificateForm, CopyText, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (settings()) {
        <div class="two">
          <form (ngSubmit)="keep()">
            <h2>How the plant is dialled</h2>
            <label class="field" for="plantName"
              >Name of the plant<input id="plantName" name="plantName" [(ngModel)]="plantName"
            /></label>
            <label class="field" for="ranges"
              >Address ranges that may be dialled<textarea
                id="ranges"
                class="mono"
                rows="4"
                name="ranges"
                [(ngModel)]="ranges"
              ></textarea>
              <small class="faint"
                >One a line, such as 10.20.0.0/16. Nothing outside them is ever dialled.</small
              ></label
            >
            <label class="field" for="nameServer"
              >Name server of the plant<input id="nameServer" class="mono" name="nameServer" [(ngModel)]="nameServer" />
              <small class="faint">Address and port; empty: this computer resolves the names.</small></label
            >
            <label class="tick" for="near"
              ><input id="near" type="checkbox" name="near" [(ngModel)]="near" /> Dial from the client machine’s own
              address <small class="faint">only where those addresses stand on this computer</small></label
            >
            <h2>How trust is judged and changed</h2>
            <label class="tick" for="crls"
              ><input id="crls" type="checkbox" name="crls" [(ngModel)]="crlsDemanded" /> Every authority needs a CRL in
              force <small class="faint">without one, what it signed is refused</small></label
            >
            <label class="tick" for="another"
              ><input id="another" type="checkbox" name="another" [(ngModel)]="approvedByAnother" /> Work orders are
              approved by another person <small class="faint">than the one who proposed them</small></label
            >
            <h2>What is kept</h2>
            <label class="field" for="keptDays"
              >Days for which checks and their facts are kept<input
                id="keptDays"
                class="mono"
                type="number"
                min="1"
                max="3650"
                name="keptDays"
                [(ngModel)]="checksKeptDays"
              />
              <small class="faint">Those that a verdict of today rests on are kept longer.</small></label
            >
            <button type="submit" class="act main" [disabled]="busy() || !mayKeep()">Save</button>
            @if (!mayKeep()) {
              <span class="faint"> This takes the role administrator.</span>
            }
          </form>
          <section>
            <h2>Client certificates</h2>
            <table class="ledger">
              <thead>
                <tr>
                  <th scope="col">Client</th>
                  <th scope="col">Certificate</th>
                  <th scope="col">Valid until</th>
                </tr>
              </thead>
              <tbody>
                @for (entry of identities(); track entry.applicationId) {
                  <tr>
                    <td>{{ entry.application }}</td>
                    <td>
                      @if (entry.thumbprint) {
                        <hinge-copy [text]="entry.thumbprint" />
                      } @else {
                        <span class="weak">none: no secured channel as this client</span>
                      }
                    </td>
                    <td>
                      @if (entry.notAfter) {
                        <hinge-moment [at]="entry.notAfter" show="day" />
                      }
                    </td>
                  </tr>
                } @empty {
                  <tr>
                    <td colspan="3" class="faint">Add client applications to the plant first.</td>
                  </tr>
                }
              </tbody>
            </table>
            <h3>Give a client its certificate and key</h3>
            <hinge-give-identity [identities]="identities()" [mayGive]="mayGive()" />
            @if (mayKeep()) {
              <h2 class="own">The certificate of this server itself</h2>
              <hinge-own-certificate />
            }
          </section>
        </div>
      } @else {
        <div class="waiting" aria-busy="true"></div>
      }
    </div>
  `,
  styles: `
    .two {
      display: grid;
      grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
      gap: 2rem;
    }
    h2 {
      margin-bottom: 0.7rem;
    }
    h2.own {
      margin-top: 1.6rem;
    }
    h3 {
      margin: 1.2rem 0 0.6rem;
    }
    .tick {
      display: block;
      margin-bottom: 1rem;
    }
  `,
})
export class SettingsPage {
  private readonly store = inject(Store);
  readonly settings = this.store.selectSignal(settingsFeature.selectSettings);
  readonly identities = this.store.selectSignal(settingsFeature.selectIdentities);
  readonly busy = this.store.selectSignal(isRunning('save'));
  readonly problem = this.store.selectSignal(settingsFeature.selectProblem);
  readonly mayKeep = may('administrator');
  readonly mayGive = may('engineer');
  readonly headline = computed(() => {
    const ranges = this.settings()?.declaredRanges;
    if (!ranges) return 'Settings';
    return ranges.length === 0
      ? 'No address may be dialled yet: declare the plant’s ranges.'
      : `Settings: ${ranges.join(', ')} may be dialled`;
  });
  readonly plantName = signal('');
  readonly ranges = signal('');
  readonly nameServer = signal('');
  readonly near = signal(false);
  readonly crlsDemanded = signal(false);
  readonly approvedByAnother = signal(false);
  readonly checksKeptDays = signal(90);

  constructor() {
    this.store.dispatch(settingsActions.load());
    if (this.mayKeep()) this.store.dispatch(settingsActions.loadOwnCertificate());
    effect(() => {
      const settings = this.settings();
      if (!settings) return;
      this.plantName.set(settings.plantName);
      this.ranges.set(settings.declaredRanges.join('\n'));
      this.nameServer.set(settings.nameServer ?? '');
      this.near.set(settings.dialFromClientAddress);
      this.crlsDemanded.set(settings.crlsDemanded);
      this.approvedByAnother.set(settings.approvedByAnother);
      this.checksKeptDays.set(settings.checksKeptDays);
    });
  }

  keep(): void {
    const nameServer = this.nameServer().trim();
    this.store.dispatch(
      settingsActions.save({
        settings: {
          plantName: this.plantName(),
          declaredRanges: this.ranges().split(/\s+/).filter(Boolean),
          nameServer: nameServer === '' ? null : nameServer,
          dialFromClientAddress: this.near(),
          crlsDemanded: this.crlsDemanded(),
          approvedByAnother: this.approvedByAnother(),
          checksKeptDays: Number(this.checksKeptDays()),
        },
      }),
    );
  }
}
