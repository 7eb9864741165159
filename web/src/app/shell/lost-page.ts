import { ChangeDetectionStrategy, Component } from '@angular/core';
import { RouterLink } from '@angular/router';

@Component({
  selector: 'hinge-lost-page',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div class="page">
    <h1>There is no such page.</h1>
    <p>The address may be old or mistyped.</p>
    <a class="act" routerLink="/links">Go to the links</a>
  </div>`,
})
export class LostPage {}
