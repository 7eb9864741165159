import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { CopyText } from '../signs/copy-text';

const keys = [
  'HKLM\\SOFTWARE\\Microsoft\\Ole',
  'HKLM\\SOFTWARE\\Policies\\Microsoft\\Windows NT\\DCOM',
  'HKLM\\SOFTWARE\\Classes\\AppID',
  'HKLM\\SOFTWARE\\Classes\\CLSID',
  'HKLM\\SOFTWARE\\WOW6432Node\\Classes\\CLSID',
  'HKLM\\SOFTWARE\\Microsoft\\Rpc',
  'HKLM\\SYSTEM\\CurrentControlSet\\Control\\Lsa',
  'HKLM\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Policies\\System',
] as const;

const lists = [
  'Get-CimInstance Win32_Service | Select-Object Name,StartName,State,StartMode | Export-Csv -NoTypeInformation -Encoding UTF8 services.csv',
  "Get-LocalGroup | ForEach-Object { $g = $_; Get-LocalGroupMember $g | Select-Object @{n='Group';e={$g.Name}},@{n='GroupSid';e={$g.SID}},Name,SID,PrincipalSource } | Export-Csv -NoTypeInformation -Encoding UTF8 groups.csv",
] as const;

/** What is typed on a machine so that its settings can be brought here: nothing is installed there, and nothing changed. */
@Component({
  selector: 'hinge-export-commands',
  imports: [CopyText],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <details [open]="open()">
      <summary>How to get the settings from the machine</summary>
      <p class="faint">
        Type these on it, as an administrator. They read, and change nothing; a key that the machine does not have says
        so. Then bring all files here, or a zip of them.
      </p>
      <ol>
        @for (command of commands; track command) {
          <li><hinge-copy [text]="command" /></li>
        }
      </ol>
      <p class="faint">For the accounts that servers run as, and who is in which group (PowerShell):</p>
      <ol>
        @for (command of lists; track command) {
          <li><hinge-copy [text]="command" /></li>
        }
      </ol>
      <p class="faint">And for each account that signs in there, under that account:</p>
      <p><hinge-copy text="whoami /all /fo csv > account.csv" /></p>
    </details>
  `,
  styles: `
    ol {
      margin: 0.4rem 0;
      padding-inline-start: 1.4rem;
    }
    li hinge-copy {
      vertical-align: top;
    }
    summary {
      cursor: pointer;
    }
    details {
      margin: 0.6rem 0 1rem;
    }
  `,
})
export class ExportCommands {
  readonly open = input(false);
  readonly lists = lists;
  readonly commands = keys.map((key, index) => `reg export "${key}" ${index + 1}.reg /y`);
}
