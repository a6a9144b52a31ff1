import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatExpansionModule } from '@angular/material/expansion';
import { MatTableModule } from '@angular/material/table';
import { type LeftOutPlace, MISSED_SHARE, type Ridges } from '@esquisse/core';
import { figure } from '../shared/numbers';
import { length, unitOf } from '../shared/units';

/** Ridges that a step leaves, by the part's slope, and where the highest is. */
@Component({
  selector: 'esq-step-ridges',
  imports: [MatButtonModule, MatExpansionModule, MatTableModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepFindings.scss',
  template: `
    @let r = ridges();
    <mat-expansion-panel class="fold mat-elevation-z0" data-testid="ridges">
      <mat-expansion-panel-header>
        <span [class.wrong]="isMissed(r)"
          >Ridges: 99 % below {{ fine(r.all.p99) }} {{ unitOf('mm') }}, asked {{ fine(r.asked) }}</span
        >
      </mat-expansion-panel-header>
      <ng-template matExpansionPanelContent>
        <table mat-table class="bands" [dataSource]="r.bands" aria-label="Ridges by the part's slope">
          <ng-container matColumnDef="slope">
            <th mat-header-cell *matHeaderCellDef>Slope</th>
            <td mat-cell *matCellDef="let band">{{ band.from }} to {{ band.to }}°</td>
          </ng-container>
          <ng-container matColumnDef="p50">
            <th mat-header-cell *matHeaderCellDef class="number">Median</th>
            <td mat-cell *matCellDef="let band" class="number">{{ fine(band.p50) }}</td>
          </ng-container>
          <ng-container matColumnDef="p99">
            <th mat-header-cell *matHeaderCellDef class="number">99 %</th>
            <td mat-cell *matCellDef="let band" class="number">{{ fine(band.p99) }}</td>
          </ng-container>
          <ng-container matColumnDef="highest">
            <th mat-header-cell *matHeaderCellDef class="number">Highest</th>
            <td mat-cell *matCellDef="let band" class="number">{{ fine(band.highest) }}</td>
          </ng-container>
          <tr mat-header-row *matHeaderRowDef="ridgeColumns"></tr>
          <tr mat-row *matRowDef="let row; columns: ridgeColumns"></tr>
        </table>
        <div class="row">
          <span class="place">The highest is at {{ whereIsPoint(r.at) }}</span>
          <button matButton class="plain" (click)="standNear.emit(asPlace(r))">Show</button>
        </div>
        <p class="pencil">
          Along the normal, at {{ figure(r.all.count, 0) }} places of the surface by the balls that pass them.
          {{ figure(100 * r.outOfReach, 0) }} % is out of this cutter's reach, {{ figure(100 * r.notCut, 0) }} % this
          step does not come to.
        </p>
      </ng-template>
    </mat-expansion-panel>
  `,
})
export class StepRidges {
  readonly ridges = input.required<Ridges>();
  /** A place to stand near. */
  readonly standNear = output<LeftOutPlace>();
  protected readonly ridgeColumns = ['slope', 'p50', 'p99', 'highest'];
  protected readonly figure = figure;
  protected readonly unitOf = unitOf;

  /** A ridge: ten times as fine as other lengths. */
  protected fine(height: number): string {
    return length(height, 4);
  }

  /** More than a twentieth over what was asked for at 99 % of the places. */
  protected isMissed({ all, asked }: Ridges): boolean {
    return all.p99 > MISSED_SHARE * asked;
  }

  protected whereIsPoint({ x, y, z }: Ridges['at']): string {
    return `X ${length(x, 1)} Y ${length(y, 1)} Z ${length(z, 1)}`;
  }

  protected asPlace({ at, all }: Ridges): LeftOutPlace {
    return { ...at, lowest: at.z, count: 1, why: `${this.fine(all.highest)} ${unitOf('mm')}` };
  }
}
