import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  afterNextRender,
  effect,
  inject,
  linkedSignal,
  viewChild,
  viewChildren,
} from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { signIn } from '@loyal-hinge/contract';
import { contractForm, isComplete } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import { HingeSign } from '../signs/hinge-sign';
import { sessionActions, sessionFeature } from './state';

@Component({
  selector: 'hinge-sign-in-page',
  imports: [HingeSign, ProblemNotice, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <main class="door">
      <form [formGroup]="form" (ngSubmit)="signIn($event)">
        <hinge-sign state="Sound" [size]="44" />
        <h1>Loyal Hinge</h1>
        <p class="faint">Can this client talk to this server? If not: why, and who has to change what?</p>
        <hinge-problem [problem]="problem()" />
        <hinge-text label="Name" fill="username" [control]="form.controls.name" />
        <hinge-text label="Password" kind="password" fill="current-password" [control]="form.controls.password" />
        @if (asksForCode()) {
          <hinge-text #codeField label="Code" kind="code" [control]="form.controls.code">
            <small class="faint">As your authenticator application shows it, or a recovery code.</small>
          </hinge-text>
        }
        <button class="act main" type="submit" [disabled]="busy()">
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
  private readonly fields = viewChildren(TextField, { read: ElementRef<HTMLElement> });
  private readonly codeField = viewChild('codeField', { read: ElementRef<HTMLElement> });
  readonly form = contractForm(signIn.shape, { name: '', password: '', code: '' });
  /** Once the password was right and a code is wanted besides. */
  readonly asksForCode = linkedSignal<string | undefined, boolean>({
    source: () => this.problem()?.code,
    computation: (code, before) => (code === undefined ? (before?.value ?? false) : code.startsWith('code-')),
  });
  readonly busy = this.store.selectSignal(sessionFeature.selectBusy);
  readonly problem = this.store.selectSignal(sessionFeature.selectProblem);

  constructor() {
    const { code } = this.form.controls;
    const focus = (field?: ElementRef<HTMLElement>) => field?.nativeElement.querySelector('input')?.focus();
    afterNextRender(() => focus(this.fields()[0]));
    effect(() => focus(this.codeField()));
    // A code is asked for once the password was right.
    effect(() => (this.asksForCode() ? code.enable() : code.disable()));
  }

  signIn(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const { code, ...who } = this.form.getRawValue();
    this.store.dispatch(sessionActions.signIn({ wish: { ...who, ...(this.asksForCode() ? { code } : {}) } }));
  }
}
