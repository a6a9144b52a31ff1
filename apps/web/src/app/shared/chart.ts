import { Directive, ElementRef, inject, type Provider } from '@angular/core';
import {
  BarController,
  BarElement,
  CategoryScale,
  type ChartOptions,
  type ChartType,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  ScatterController,
  Tooltip,
} from 'chart.js';
import { BaseChartDirective, provideCharts } from 'ng2-charts';
import type { Palette } from '../bench/palette';
import { InTurn } from './turns';

/** The parts of the chart library that are used. */
export function provideChartParts(): Provider {
  return provideCharts({
    registerables: [
      BarController,
      BarElement,
      CategoryScale,
      LinearScale,
      LineController,
      LineElement,
      PointElement,
      ScatterController,
      Tooltip,
    ],
  });
}

/**
 * A chart is painted by the page itself: lent to the graphics, a canvas of this size costs more than it saves, and where
 * those are busy with the bench the page would wait for them.
 */
@Directive({ selector: 'canvas[baseChart]' })
export class PaintedHere {
  constructor() {
    inject<ElementRef<HTMLCanvasElement>>(ElementRef).nativeElement.getContext('2d', { willReadFrequently: true });
  }
}

/** What a component with a chart needs. */
export const CHART = [PaintedHere, BaseChartDirective, InTurn] as const;

/** What all charts have: our inks and faces, no movement, no frame but hairlines. */
export function chartLook<Kind extends ChartType>({ pencil, sheet, ink }: Palette): ChartOptions<Kind> {
  const options: ChartOptions = {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    color: pencil,
    borderColor: pencil,
    font: { family: "'IBM Plex Mono', monospace", size: 10 },
    plugins: {
      tooltip: {
        backgroundColor: ink,
        titleColor: sheet,
        bodyColor: sheet,
        cornerRadius: 2,
        displayColors: false,
        animation: false,
      },
    },
  };
  return options as ChartOptions<Kind>;
}
