import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { CertificateView } from '@loyal-hinge/contract';
import { saveFile } from '../files/save-file';
import { Moment } from '../signs/moment';
import { CertificateSheet } from './certificate-sheet';
import { daysWords, nearness } from './days';
import { reasonWords } from './reasons';
import { trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { WaiversView } from './waivers-view';
import { Waiting } from '../shell/waiting';

/** A certificate’s own page: what it says, its chain, where it lies, and what stands on it. */
@Component({
  selector: 'hinge-certificate-page',
  imports: [Waiting, RouterLink, TrustHead, CertificateSheet, WaiversView, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()">
        @if (page()) {
          <button type="button" class="act" (click)="save()">Save as PEM</button>
        }
      </hinge-trust-head>
      @if (page(); as told) {
        <div class="leaves">
          <div>
            @if (sheet(); as view) {
              <hinge-certificate-sheet [view]="view" [full]="true" />
            }
            @if (told.lint; as findings) {
              <h2>What OPC UA requires of it</h2>
              @for (finding of findings; track finding.ruleId) {
                <p class="finding">
                  <strong [class]="tones[finding.severity]">{{ finding.severity }}</strong> {{ finding.says }}
                  <span class="faint">{{ finding.remedy }} {{ finding.clause }}</span>
                </p>
              } @empty {
                <p><strong class="holds">It fulfils all rules of Part 6 §6.2.2.</strong></p>
              }
            }
          </div>
          <div>
            @if (told.revoked; as revoked) {
              <p class="revoked">
                <strong class="fails">Revoked</strong> since <hinge-moment [at]="revoked.since" show="day" /> ({{
                  revoked.reason
                }}).
              </p>
            }
            <h2>Its chain</h2>
            <ol class="chain">
              @for (link of chain(); track link.thumbprint) {
                <li [style.margin-left.rem]="$index * 1.4">
                  <span class="leaf" [class]="link.tone"></span>
                  @if (link.thumbprint === told.certificate.thumbprint) {
                    <strong>{{ link.name }}</strong>
                  } @else {
                    <a [routerLink]="['/trust/certificates', link.thumbprint]">{{ link.name }}</a>
                  }
                  <span class="faint">{{ link.selfIssued ? 'signed by itself, ' : '' }}{{ link.words }}</span>
                </li>
              }
              @if (told.missingIssuer; as missing) {
                <li class="fails">The issuer {{ missing }} is not known in the plant.</li>
              }
            </ol>
            <h2>Waivers</h2>
            <hinge-waivers [page]="told" />
            <h2>Where it is listed</h2>
            @if (told.shownBy.length > 0) {
              <p>
                Shown by
                @for (shown of told.shownBy; track shown.applicationId) {
                  <a [routerLink]="['/trust/lists', shown.applicationId]">{{ shown.name }}</a>{{
                    shown.now ? '' : ' (until it got another one)'
                  }}{{ $last ? '.' : ', ' }}
                }
              </p>
            }
            <ul class="lies">
              @for (place of told.lies; track place.applicationId + place.list) {
                <li>
                  <a [routerLink]="['/trust/lists', place.applicationId]">{{ place.name }}</a>:
                  {{ listWords[place.list] }}
                  <span class="faint">since <hinge-moment [at]="place.since" show="day" /> at the latest</span>
                </li>
              } @empty {
                <li class="faint">In no list that has been read.</li>
              }
            </ul>
            <h2>What depends on it</h2>
            <ul class="lies">
              @for (link of told.links; track link.linkId) {
                <li>
                  @if (link.linkId.startsWith('push--')) {
                    {{ link.name }}
                  } @else {
                    <a [routerLink]="['/links', link.linkId]">{{ link.name }}</a>
                  }
                </li>
              } @empty {
                <li class="faint">No link.</li>
              }
            </ul>
            @if (told.relatives.length > 0) {
              <h2>Before and after it</h2>
              <ul class="lies">
                @for (other of told.relatives; track other.thumbprint) {
                  <li>
                    <a [routerLink]="['/trust/certificates', other.thumbprint]">{{ other.name }}</a>
                    <span class="faint"
                      >{{ other.is }} it: <hinge-moment [at]="other.notBefore" show="day" /> to
                      <hinge-moment [at]="other.notAfter" show="day"
                    /></span>
                  </li>
                }
              </ul>
            }
          </div>
        </div>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .chain,
    .lies {
      list-style: none;
      padding: 0;
      margin: 0;
    }
    .chain li {
      padding: 0.2rem 0;
    }
    .chain .faint {
      margin-left: 0.5rem;
    }
    .leaf {
      display: inline-block;
      width: 0.6rem;
      height: 1rem;
      background: currentColor;
      vertical-align: -0.15rem;
      margin-right: 0.5rem;
    }
    .finding {
      border-left: 3px solid var(--line);
      padding-left: 0.7rem;
    }
    .revoked {
      border-left: 4px solid var(--fails);
      background: var(--panel);
      padding: 0.45rem 0.9rem;
    }
  `,
})
export class CertificatePageView {
  private readonly store = inject(Store);
  /** From the address. */
  readonly thumbprint = input.required<string>();
  readonly page = this.store.selectSignal(trustFeature.selectCertificate);
  readonly problem = this.store.selectSignal(trustFeature.selectProblem);
  readonly tones = { error: 'fails', warning: 'weak', advice: 'unknown' } as const;
  readonly listWords = { trusted: 'trusted list', issuers: 'issuers list', rejected: 'rejected list' } as const;
  readonly sheet = computed<CertificateView | null>(() => {
    const page = this.page();
    return page ? { certificate: page.certificate, unusual: page.unusual, firstSeen: page.firstSeen } : null;
  });
  readonly chain = computed(() =>
    (this.page()?.chain ?? []).map((link) => ({
      ...link,
      words: daysWords(Date.parse(link.notAfter), Date.now()),
      tone: nearness(Date.parse(link.notAfter), Date.now()),
    })),
  );
  readonly headline = computed(() => {
    const page = this.page();
    if (!page) return 'Certificate';
    const name = page.chain[0]?.name ?? page.certificate.subject;
    const state = page.revoked ? 'revoked' : daysWords(Date.parse(page.certificate.notAfter), Date.now());
    const many = page.links.length;
    const depends =
      many === 0 ? 'no link depends on it.' : byNumber(many, '# link depends on it.', '# links depend on it.');
    return `${name}: ${state}; ${depends}`;
  });

  constructor() {
    effect(() => {
      const thumbprint = this.thumbprint();
      this.store.dispatch(trustActions.show({ request: { view: 'certificate', thumbprint } }));
    });
  }

  reasonOf = (reason: string): string => reasonWords[reason] ?? reason;

  save(): void {
    const page = this.page();
    if (page) saveFile(`${page.certificate.thumbprint}.pem`, 'application/x-pem-file', page.pem);
  }
}
