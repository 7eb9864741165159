import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { FileUpload } from 'primeng/fileupload';
import { UploadIcon } from 'primeng/icons/upload';

/** A button that lets files be chosen, for something that begins as soon as they are. */
@Component({
  selector: 'hinge-file-button',
  imports: [FileUpload, UploadIcon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-fileupload
      mode="basic"
      chooseStyleClass="act"
      [customUpload]="true"
      [auto]="true"
      [accept]="accept()"
      [multiple]="multiple()"
      [disabled]="disabled()"
      [maxFileSize]="mostBytes()"
      [chooseLabel]="words()"
      [chooseButtonProps]="named()"
      invalidFileTypeMessageSummary="{0} was not taken:"
      invalidFileTypeMessageDetail="its name must end in {0}."
      invalidFileSizeMessageSummary="{0} was not taken:"
      invalidFileSizeMessageDetail="it is larger than {0}."
      (uploadHandler)="taken.emit($event.files)"
      ><ng-template #chooseicon><svg data-p-icon="upload" aria-hidden="true"></svg></ng-template
    ></p-fileupload>
  `,
})
export class FileButton {
  readonly words = input.required<string>();
  /** What the words leave open, for those who don’t see what stands beside. */
  readonly about = input('');
  readonly accept = input('');
  readonly multiple = input(false);
  readonly disabled = input(false);
  readonly mostBytes = input(20_000_000);
  readonly taken = output<readonly File[]>();
  readonly named = computed(() => (this.about() === '' ? {} : { ariaLabel: `${this.words()} ${this.about()}` }));
}
