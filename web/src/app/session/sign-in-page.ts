import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  Component,
  afterNextRender,
  effect,
  inject,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { ProblemNotice } from '../http/problem-notice';
import { HingeSign } from '../signs/hinge-sign';
import { sessionActions, sessionFeature } from './state';

@Component({
  selector: 'hinge-sign-in-page',
  imports: [FormsModule, ProblemNotice, HingeSign],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <main class="door">
      <form (ngSubmit)="signIn()">
        <hinge-sign state="Sound" [size]="44" />
        <h1>Loyal Hinge</h1>
        <p class="faint">May this client talk to this server, and if it can’t, why, and who has to change what?</p>
        <hinge-problem [problem]="problem()" />
        <label class="field"
          >Name<input name="name" autocomplete="username" required #first [(ngModel)]="name"
        /></label>
        <label class="field"
          >Password<input
            name="password"
            type="password"
            autocomplete="current-password"
            required
            [(ngModel)]="password"
        /></label>
        @if (asksForCode()) {
          <label class="field"
            >Code<input
              #codeField
              name="code"
              class="mono"
              inputmode="numeric"
              autocomplete="one-time-code"
              [(ngModel)]="code"
            /><small class="faint">As your authenticator application shows it, or a recovery code.</small></label
          >
        }
        <button
          class="act main"
          type="submit"
          [disabled]="busy() || !name() || !password() || (asksForCode() && !code())"
        >
          {{ busy() ? 'Signing in …' : 'Sign in' }}
        </button>
      </form>
    </main>
  `,
  styles: `
    .door {
      min-height: 100vh;
      display: grid;
      place-items: center;
    }
    form {
      width: 24rem;
      background: var(--panel);
      border: 1px solid var(--line);
      border-top: 4px solid var(--weak);
      padding: 1.6rem 1.8rem 1.8rem;
    }
    h1 {
      margin: 0.4rem 0 0.2rem;
    }
    button {
      width: 100%;
    }
  `,
})
export class SignInPage {
  private readonly store = inject(Store);
  private readonly first = viewChild.required<ElementRef<HTMLInputElement>>('first');
  private readonly codeField = viewChild<ElementRef<HTMLInputElement>>('codeField');
  readonly name = signal('');
  readonly password = signal('');
  readonly code = signal('');
  /** Once the password was right and a code is wanted besides. */
  readonly asksForCode = linkedSignal<string | undefined, boolean>({
    source: () => this.problem()?.code,
    computation: (code, before) => (code === undefined ? (before?.value ?? false) : code.startsWith('code-')),
  });
  readonly busy = this.store.selectSignal(sessionFeature.selectBusy);
  readonly problem = this.store.selectSignal(sessionFeature.selectProblem);

  constructor() {
    afterNextRender(() => this.first().nativeElement.focus());
    effect(() => this.codeField()?.nativeElement.focus());
  }

  signIn(): void {
    const code = this.asksForCode() ? { code: this.code() } : {};
    this.store.dispatch(sessionActions.signIn({ wish: { name: this.name(), password: this.password(), ...code } }));
  }
}
