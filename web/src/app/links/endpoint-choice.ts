import { ChangeDetectionStrategy, Component, computed, effect, input, output } from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import type { ChosenEndpoint, Remedy } from '@loyal-hinge/core';
import type { LinkDetail } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';

/** Which of the endpoints that both sides have is used; another one is looked at as a change before it is chosen. */
@Component({
  selector: 'hinge-endpoint-choice',
  imports: [Choose, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Endpoint</h2>
    <hinge-choose label="Use" [inline]="true" [disabled]="!mayMend()" [formControl]="field" [choices]="choices()" />
  `,
  styles: `
    h2 {
      margin-bottom: 0.5rem;
    }
  `,
})
export class EndpointChoice {
  readonly told = input.required<LinkDetail>();
  readonly mayMend = input(false);
  /** A change is being considered: what is chosen in the field stays until it is done or left. */
  readonly considering = input(false);
  readonly consider = output<Remedy>();
  readonly field = new FormControl('', { nonNullable: true });
  readonly choices = computed(() => [
    { key: '', word: wordsOf(null) },
    ...this.told().usableEndpoints.map((one) => ({ key: keyOf(one), word: wordsOf(one) })),
  ]);

  constructor() {
    effect(() => {
      if (!this.considering()) this.field.setValue(keyOf(this.told().link.chosenEndpoint), { emitEvent: false });
    });
    this.field.valueChanges.subscribe((key) => this.consider.emit(this.remedyFor(key)));
  }

  private remedyFor(key: string): Remedy {
    const { link, usableEndpoints } = this.told();
    const before = link.chosenEndpoint;
    const after = usableEndpoints.find((endpoint) => keyOf(endpoint) === key) ?? null;
    return {
      title: 'Choose another endpoint',
      target: link.name,
      before: wordsOf(before),
      after: wordsOf(after),
      change: { kind: 'choose-endpoint', linkId: link.id, before, after },
      restart: false,
      undo: 'Choose the old one again.',
    };
  }
}

const keyOf = (endpoint: ChosenEndpoint | null): string => (endpoint ? `${endpoint.policy} ${endpoint.mode}` : '');

const wordsOf = (endpoint: ChosenEndpoint | null): string =>
  endpoint ? `${endpoint.policy} (${endpoint.mode})` : 'the best that both sides have';
