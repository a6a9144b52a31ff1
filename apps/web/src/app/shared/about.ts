import { ChangeDetectionStrategy, Component } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule } from '@angular/material/dialog';

/** What the application is made of, and under which licences. */
@Component({
  selector: 'esq-about',
  imports: [MatDialogModule, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    p {
      margin: 0 0 10px;
    }
    a {
      color: var(--indigo);
    }
  `,
  template: `
    <h2 mat-dialog-title>About Esquisse</h2>
    <mat-dialog-content>
      <p>
        Esquisse programs, tracks and proves the milling of mould and die inserts. It calculates in this browser alone.
      </p>
      <p>It is free software: <a href="/license.txt" target="_blank" rel="noopener">its licence (MIT)</a>.</p>
      <p>
        It holds packages of others:
        <a href="/notices.txt" target="_blank" rel="noopener">their licences and notices</a>. STEP files are read by
        occt-import-js with Open CASCADE Technology, under the GNU Lesser General Public License 2.1; the notices tell
        how to put another version in its place.
      </p>
    </mat-dialog-content>
    <mat-dialog-actions>
      <button matButton mat-dialog-close cdkFocusInitial>Close</button>
    </mat-dialog-actions>
  `,
})
export class About {}
