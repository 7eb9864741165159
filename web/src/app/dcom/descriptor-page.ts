import { ChangeDetectionStrategy, Component, DestroyRef, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl } from '@angular/forms';
import { decodeBase64, nameOfSid, readDescriptorBytes, readSddl, rightsInMask, sddlOf } from '@loyal-hinge/core';
import type { Ace, ReadPart, SecurityDescriptor } from '@loyal-hinge/core';
import { TextField } from '../forms/text-field';
import { CopyText } from '../signs/copy-text';
import { DcomHead } from './dcom-head';

const mostLetters = 200_000;

/** A descriptor that somebody pastes, in words: nothing of it leaves the browser. */
@Component({
  selector: 'hinge-descriptor-page',
  imports: [CopyText, DcomHead, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-dcom-head [headline]="headline()" />
      <hinge-text label="Descriptor" kind="lines" [control]="text">
        <small class="faint"
          >SDDL, such as O:BAG:BAD:(A;;CCDCLC;;;AU); hexadecimal as a registry export has it; or Base64. It stays in
          this browser.</small
        >
      </hinge-text>
      @if (fault(); as told) {
        <p class="fails" role="status">{{ told }}</p>
      }
      @if (read(); as known) {
        <dl>
          <div>
            <dt>Owner</dt>
            <dd>{{ known.owner }}</dd>
          </div>
          <div>
            <dt>Group</dt>
            <dd>{{ known.group }}</dd>
          </div>
          @if (known.sddl) {
            <div>
              <dt>As SDDL</dt>
              <dd><hinge-copy [text]="known.sddl" /></dd>
            </div>
          }
        </dl>
        @if (known.entries) {
          <table class="ledger">
            <thead>
              <tr>
                <th scope="col">Entry</th>
                <th scope="col">Who</th>
                <th scope="col">Gives or denies</th>
                <th scope="col">As launch permission</th>
                <th scope="col">As access permission</th>
                <th scope="col">Mask</th>
              </tr>
            </thead>
            <tbody>
              @for (entry of known.entries; track $index) {
                <tr>
                  <td>{{ $index + 1 }}</td>
                  <td>{{ entry.who }}</td>
                  <td>{{ entry.kind }}</td>
                  <td>{{ entry.launch }}</td>
                  <td>{{ entry.access }}</td>
                  <td class="mono">{{ entry.mask }}</td>
                </tr>
              } @empty {
                <tr>
                  <td colspan="6">The list is empty: nobody may do anything.</td>
                </tr>
              }
            </tbody>
          </table>
        } @else {
          <p class="weak">It has no list at all: everybody may do everything.</p>
        }
      }
    </div>
  `,
  styles: `
    dl div {
      display: grid;
      grid-template-columns: 8rem 1fr;
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .fails {
      color: var(--fails);
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
  `,
})
export class DescriptorPage {
  readonly text = new FormControl('', { nonNullable: true });
  private readonly typed = toSignal(this.text.valueChanges, { initialValue: '' });
  private readonly result = computed(() => descriptorIn(this.typed()));
  readonly fault = computed(() => {
    const result = this.result();
    return result && !result.ok ? `At ${result.unit} ${result.fault.at}: ${result.fault.says}` : null;
  });
  readonly read = computed(() => {
    const result = this.result();
    return result?.ok ? wordsOf(result.value) : null;
  });
  readonly headline = computed(() => {
    const result = this.result();
    if (!result) return 'What a security descriptor means';
    return result.ok ? saysOf(result.value) : 'This is no security descriptor.';
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => this.text.reset());
  }
}

/** SDDL, hexadecimal digits as an export has them, or Base64; null: nothing was typed. */
function descriptorIn(typed: string): (ReadPart<SecurityDescriptor> & { readonly unit: string }) | null {
  const text = typed.slice(0, mostLetters).trim();
  if (text === '') return null;
  const hex = text.replace(/^.*?hex(?:\([0-9a-f]+\))?:/is, '').replace(/[\s,\\]|0x/gi, '');
  if (/^(?:[0-9a-f]{2}){20,}$/i.test(hex))
    return {
      ...readDescriptorBytes(Uint8Array.from(hex.match(/../g) ?? [], (digits) => parseInt(digits, 16))),
      unit: 'byte',
    };
  const bytes = /^[OGDS]:/i.test(text) ? null : decodeBase64(text);
  return bytes && bytes.length >= 20
    ? { ...readDescriptorBytes(bytes), unit: 'byte' }
    : { ...readSddl(text), unit: 'character' };
}

const kinds: Readonly<Record<number, string>> = {
  0: 'gives',
  1: 'denies',
  5: 'gives, for one kind of object',
  6: 'denies, for one kind of object',
  9: 'gives, on a condition',
  10: 'denies, on a condition',
};

function wordsOf(descriptor: SecurityDescriptor) {
  const { owner, group, dacl } = descriptor;
  return {
    owner: owner === null ? 'nobody' : nameWords(owner),
    group: group === null ? 'none' : nameWords(group),
    sddl: sddlOf(descriptor),
    entries: dacl && dacl.map(entryWords),
  };
}

const nameWords = (sid: string): string => {
  const name = nameOfSid(sid);
  return name === null ? sid : `${name} (${sid})`;
};

function entryWords({ type, mask, sid }: Ace) {
  const rights = (permission: 'launch' | 'access'): string => rightsInMask(mask, permission).join(', ') || '–';
  return {
    who: nameWords(sid),
    kind: kinds[type] ?? `type ${type}`,
    launch: rights('launch'),
    access: rights('access'),
    mask: `0x${mask.toString(16)}`,
  };
}

function saysOf({ dacl }: SecurityDescriptor): string {
  if (dacl === null) return 'It lets everybody do everything.';
  if (dacl.length === 0) return 'It lets nobody do anything.';
  const open = dacl.some(
    ({ type, sid, mask }) =>
      type === 0 &&
      (sid === 'S-1-1-0' || sid === 'S-1-5-7') &&
      rightsInMask(mask, 'launch').some((right) => right.endsWith('far')),
  );
  return open
    ? 'It lets everybody in from other machines.'
    : `It has ${dacl.length === 1 ? '1 entry' : `${dacl.length} entries`}.`;
}
