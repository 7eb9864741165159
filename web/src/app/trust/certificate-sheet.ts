import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { counted } from '@loyal-hinge/core';
import type { CertificateView } from '@loyal-hinge/contract';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';

/** A certificate with everything that matters, and what is unusual about it first. */
@Component({
  selector: 'hinge-certificate-sheet',
  imports: [Moment, CopyText],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let certificate = view().certificate;
    <section>
      @if (view().unusual.length > 0) {
        <h3>Check this first</h3>
        <ul>
          @for (line of view().unusual; track line) {
            <li>{{ line }}</li>
          }
        </ul>
      }
      <dl class="facts">
        <dt>Subject</dt>
        <dd>{{ certificate.subject }}</dd>
        <dt>Issuer</dt>
        <dd>{{ certificate.selfIssued ? 'itself' : certificate.issuer }}</dd>
        <dt>Application URI</dt>
        <dd class="mono">{{ certificate.applicationUris.join(', ') || 'none' }}</dd>
        <dt>Names</dt>
        <dd class="mono">{{ certificate.dnsNames.concat(certificate.ipAddresses).join(', ') || 'none' }}</dd>
        <dt>Valid</dt>
        <dd>
          <hinge-moment [at]="certificate.notBefore" show="day" /> to
          <hinge-moment [at]="certificate.notAfter" show="day" />
        </dd>
        <dt>Key</dt>
        <dd>{{ certificate.keyType }}, {{ certificate.keyBits }} bits; signed with {{ certificate.signatureHash }}</dd>
        <dt>Used for</dt>
        <dd>{{ uses() }}</dd>
        <dt>Serial number</dt>
        <dd class="mono">{{ certificate.serialNumber }}</dd>
        @if (full()) {
          @if (certificate.subjectKeyId; as own) {
            <dt>Key identifier</dt>
            <dd><hinge-copy [text]="own" /></dd>
          }
          @if (certificate.authorityKeyId; as above) {
            <dt>Issuer’s key</dt>
            <dd><hinge-copy [text]="above" /></dd>
          }
        }
        <dt>Thumbprint</dt>
        <dd><hinge-copy [text]="certificate.thumbprint" /></dd>
        <dt>SHA-256</dt>
        <dd><hinge-copy [text]="certificate.sha256" /></dd>
      </dl>
    </section>
  `,
  styles: `
    section {
      border: 1px solid var(--line);
      background: var(--paper);
      padding: 0.7rem 0.9rem;
      margin-bottom: 0.8rem;
    }
    ul {
      margin: 0.2rem 0 0.7rem;
      padding-left: 1.1rem;
    }
  `,
})
export class CertificateSheet {
  readonly view = input.required<CertificateView>();
  /** With what only chains are followed by. */
  readonly full = input(false);
  /** Key usage and extended key usage, or that it is an authority. */
  readonly uses = computed(() => {
    const { isAuthority, pathLength, keyUsages, extendedKeyUsages } = this.view().certificate;
    const below = pathLength === null ? 'any number of authorities' : counted(pathLength, 'authority', 'authorities');
    const usages = [...keyUsages, ...extendedKeyUsages].join(', ') || 'nothing is said';
    return isAuthority ? `an authority, with ${below} below it (${usages})` : usages;
  });
}
