import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import type { OnInit } from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { firewallWish } from '@loyal-hinge/contract';
import type { Firewall, PassageView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { passageActions, passageFeature } from './state';

/** A firewall: whose own it is, or which interface leads to which zone. */
@Component({
  selector: 'hinge-firewall-form',
  imports: [Choose, FormSheet, ReactiveFormsModule, RouterLink, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Add a firewall'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save')"
      (sent)="save()"
      (left)="leave()"
    >
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose label="Stands" [formControl]="form.controls.machineId" [choices]="machineChoices()" />
      @if (form.controls.machineId.value === between) {
        <div class="interfaces">
          @if (view().zones.length < 2) {
            <p class="fails">
              The plant has fewer than two zones, and a firewall stands between zones.
              <a routerLink="/plant" [queryParams]="{ part: 'zones' }">Add zones</a> first.
            </p>
          } @else {
            <p class="faint">The interface to each zone, as the firewall’s rules name it; empty where it has none.</p>
          }
          @for (zone of view().zones; track zone.id) {
            <hinge-text [label]="zone.name" [control]="controlOf(zone.id)" />
          }
          @if (fault(); as says) {
            <p class="fails" role="alert">{{ says }}</p>
          }
        </div>
      }
    </hinge-form-sheet>
  `,
  styles: `
    .interfaces {
      grid-column: 1 / -1;
      display: grid;
      grid-template-columns: repeat(3, minmax(0, 1fr));
      gap: 0.2rem 1.2rem;
    }
    .fails {
      color: var(--fails);
    }
    .interfaces p {
      grid-column: 1 / -1;
      margin: 0;
    }
  `,
})
export class FirewallForm implements OnInit {
  private readonly store = inject(Store);
  readonly view = input.required<PassageView>();
  readonly row = input<Firewall | null>(null);
  readonly running = this.store.selectSignal(passageFeature.selectRunning);
  /** What is wrong with the interfaces. */
  readonly fault = signal<string | null>(null);
  /** Stands for no machine. */
  readonly between = '-';
  readonly machineChoices = computed(() => [
    { key: this.between, word: 'between zones' },
    ...this.view().machines.map(({ id, name }) => ({ key: id, word: `on ${name}` })),
  ]);
  readonly form = contractForm({ name: firewallWish.shape.name }, { name: '', machineId: '-' });
  private readonly interfaces = new Map<string, FormControl<string>>();

  ngOnInit(): void {
    const row = this.row();
    for (const { id } of this.view().zones)
      this.controlOf(id).setValue(row?.interfaces.find(({ zoneId }) => zoneId === id)?.name ?? '');
    this.form.reset({ name: row?.name ?? '', machineId: row?.machineId ?? this.between });
  }

  controlOf(zoneId: string): FormControl<string> {
    const known = this.interfaces.get(zoneId) ?? new FormControl('', { nonNullable: true });
    this.interfaces.set(zoneId, known);
    return known;
  }

  save(): void {
    const { name, machineId } = this.form.getRawValue();
    const interfaces = this.view().zones.flatMap(({ id }) => {
      const written = this.controlOf(id).value.trim();
      return written === '' ? [] : [{ name: written, zoneId: id }];
    });
    const isBetween = machineId === this.between;
    const wish = { name, machineId: isBetween ? null : machineId, interfaces: isBetween ? interfaces : [] };
    const judged = firewallWish.safeParse(wish);
    this.fault.set(judged.success ? null : (judged.error.issues[0]?.message ?? null));
    if (judged.success) this.store.dispatch(passageActions.saveFirewall({ id: this.row()?.id ?? null, wish }));
  }

  leave(): void {
    this.store.dispatch(passageActions.editNoMore());
  }
}
