import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { Dialog } from 'primeng/dialog';
import type { ShownProblem } from '../http/problem';
import { ApplicationForm } from './forms/application-form';
import { LinkForm } from './forms/link-form';
import { MachineForm } from './forms/machine-form';
import type { LookFor, Offered } from './forms/offered';
import { ZoneForm } from './forms/zone-form';
import type { Editing, LookUp, PlantRow } from './state';

const titles = {
  links: { add: 'Add a link', change: 'Change a link' },
  applications: { add: 'Add an application', change: 'Change an application' },
  machines: { add: 'Add a machine', change: 'Change a machine' },
  zones: { add: 'Add a zone', change: 'Change a zone' },
} as const;

/** Adds or changes one part of the plant. What was typed stays until it is saved or left on purpose. */
@Component({
  selector: 'hinge-part-form',
  imports: [ApplicationForm, Dialog, LinkForm, MachineForm, ZoneForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="title()"
      [visible]="true"
      (visibleChange)="$event || left.emit()"
      [modal]="true"
      [focusOnShow]="false"
      [style]="{ width: '38rem' }"
      [breakpoints]="{ '700px': '96vw' }"
    >
      @let edited = editing();
      @switch (edited.part) {
        @case ('zones') {
          <hinge-zone-form
            [row]="edited.row"
            [nextOrder]="offered().zones.length + 1"
            [isSaving]="isSaving()"
            [problem]="problem()"
            (left)="left.emit()"
            (saved)="saved.emit($event)"
          />
        }
        @case ('machines') {
          <hinge-machine-form
            [row]="edited.row"
            [zones]="offered().zones"
            [isSaving]="isSaving()"
            [problem]="problem()"
            (left)="left.emit()"
            (saved)="saved.emit($event)"
          />
        }
        @case ('applications') {
          <hinge-application-form
            [row]="edited.row"
            [offered]="offered()"
            [isSaving]="isSaving()"
            [problem]="problem()"
            (lookFor)="lookFor.emit($event)"
            (left)="left.emit()"
            (saved)="saved.emit($event)"
          />
        }
        @case ('links') {
          <hinge-link-form
            [row]="edited.row"
            [offered]="offered()"
            [isSaving]="isSaving()"
            [problem]="problem()"
            (lookUp)="lookUp.emit($event)"
            (lookFor)="lookFor.emit($event)"
            (left)="left.emit()"
            (saved)="saved.emit($event)"
          />
        }
      }
    </p-dialog>
  `,
})
export class PartForm {
  readonly editing = input.required<Editing>();
  readonly isSaving = input(false);
  /** Why it could not be saved. */
  readonly problem = input<ShownProblem | null>(null);
  readonly offered = input.required<Offered>();
  readonly lookFor = output<LookFor>();
  readonly lookUp = output<LookUp>();
  readonly left = output();
  readonly saved = output<PlantRow>();
  readonly title = computed(() => titles[this.editing().part][this.editing().row ? 'change' : 'add']);
}
