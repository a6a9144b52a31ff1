import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatExpansionModule } from '@angular/material/expansion';
import { MatTableModule } from '@angular/material/table';
import type { Unfinished } from '@esquisse/core';
import { area, length, unitOf } from '../shared/units';

/** Steel that a step leaves above what is asked of it, by the part's slope, and where most of it is. */
@Component({
  selector: 'esq-step-unfinished',
  imports: [MatButtonModule, MatExpansionModule, MatTableModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepFindings.scss',
  template: `
    @let l = left();
    <mat-expansion-panel class="fold mat-elevation-z0" data-testid="unfinished">
      <mat-expansion-panel-header>
        Stays above {{ length(l.most) }} {{ unitOf('mm') }}: up to {{ length(thickest(l)) }} {{ unitOf('mm') }} on
        {{ area(areaOf(l), 1) }} {{ unitOf('cm²') }}
      </mat-expansion-panel-header>
      <ng-template matExpansionPanelContent>
        <table mat-table class="bands" [dataSource]="l.bands" aria-label="What stays, by the part's slope">
          <ng-container matColumnDef="slope">
            <th mat-header-cell *matHeaderCellDef>Slope</th>
            <td mat-cell *matCellDef="let band">{{ band.from }} to {{ band.to }}°</td>
          </ng-container>
          <ng-container matColumnDef="thickest">
            <th mat-header-cell *matHeaderCellDef class="number">Up to, {{ unitOf('mm') }}</th>
            <td mat-cell *matCellDef="let band" class="number">{{ length(band.thickest) }}</td>
          </ng-container>
          <ng-container matColumnDef="area">
            <th mat-header-cell *matHeaderCellDef class="number">On, cm²</th>
            <td mat-cell *matCellDef="let band" class="number">{{ area(band.area, 2) }}</td>
          </ng-container>
          <tr mat-header-row *matHeaderRowDef="bandColumns"></tr>
          <tr mat-row *matRowDef="let row; columns: bandColumns"></tr>
        </table>
        <p class="pencil">Most of it is here:</p>
        @for (place of l.places; track $index) {
          <div class="row">
            <span class="place">
              {{ length(place.thickest) }} {{ unitOf('mm') }} at X {{ length(place.x, 1) }} Y {{ length(place.y, 1) }} Z
              {{ length(place.z, 1) }}
            </span>
            <button matButton class="plain" (click)="stand.emit(place.motion)">Show</button>
          </div>
        }
      </ng-template>
    </mat-expansion-panel>
  `,
})
export class StepUnfinished {
  readonly left = input.required<Unfinished>();
  /** A motion to stand at. */
  readonly stand = output<number>();
  protected readonly bandColumns = ['slope', 'thickest', 'area'];
  protected readonly area = area;
  protected readonly length = length;
  protected readonly unitOf = unitOf;

  protected thickest({ bands }: Unfinished): number {
    return Math.max(...bands.map((b) => b.thickest));
  }

  protected areaOf({ bands }: Unfinished): number {
    return bands.reduce((sum, b) => sum + b.area, 0);
  }
}
