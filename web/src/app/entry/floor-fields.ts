import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { noFloor, securityModes, securityPolicyNames, tokenTypes, tokenWords } from '@loyal-hinge/core';
import type { EntryFloor, SecurityMode, SecurityPolicyName, TokenType } from '@loyal-hinge/core';
import { entryFloor } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import type { Choice } from '../forms/choose';
import { ChooseSome } from '../forms/choose-some';
import { NumberField } from '../forms/number-field';

const { tokens, keyBits } = entryFloor.shape;

/** Fields of a floor with their validation, to be put into a form; what they begin with accepts everything. */
export const floorShape = { tokens, keyBits };
export const floorBeginning = {
  policy: noFloor.policy,
  mode: noFloor.mode,
  tokens: [...noFloor.tokens] as TokenType[],
  keyBits: noFloor.keyBits,
};
/** The same as a form holds it. */
export const asTyped = ({ policy, mode, tokens: some, keyBits: bits }: EntryFloor): typeof floorBeginning => ({
  policy,
  mode,
  tokens: [...some],
  keyBits: bits,
});

interface FloorControls {
  readonly policy: FormControl<SecurityPolicyName>;
  readonly mode: FormControl<SecurityMode>;
  readonly tokens: FormControl<TokenType[]>;
  readonly keyBits: FormControl<number>;
}

const modeWords: Readonly<Record<SecurityMode, string>> = {
  None: 'any mode',
  Sign: 'signed (Sign)',
  SignAndEncrypt: 'encrypted (SignAndEncrypt)',
};

/** What is accepted of an endpoint, and of who signs in there. */
@Component({
  selector: 'hinge-floor-fields',
  imports: [Choose, ChooseSome, NumberField, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-choose label="Least security policy" [formControl]="controls().policy" [choices]="policies" />
    <hinge-choose label="Least mode" [formControl]="controls().mode" [choices]="modes" />
    <hinge-choose-some label="Kinds of users" [control]="controls().tokens" [choices]="kinds" />
    <hinge-number label="Least RSA key of a server (0: any)" unit="bits" [step]="1024" [control]="controls().keyBits" />
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class FloorFields {
  /** Of the form that they stand in. */
  readonly controls = input.required<FloorControls>();
  readonly policies: Choice<SecurityPolicyName>[] = securityPolicyNames.map((key) => ({
    key,
    word: key === 'None' ? 'any policy' : key,
  }));
  readonly modes = securityModes.map((key) => ({ key, word: modeWords[key] }));
  readonly kinds: Choice<TokenType>[] = tokenTypes.map((key) => ({ key, word: tokenWords[key] }));
}
