import { Injectable, signal } from '@angular/core';
import { LOAD_QUANTITIES, type LoadQuantity } from '@esquisse/core';
import { figure } from './numbers';
import { length, unitOf } from './units';

/** Which quantity of the load is looked at: the same in the findings and on the steel. */
@Injectable({ providedIn: 'root' })
export class LoadChoice {
  readonly quantity = signal<LoadQuantity>('angle');
}

/** What can be chosen. */
export const LOAD_OPTIONS = LOAD_QUANTITIES.map(({ id, name, symbol }) => ({ value: id, label: `${name} ${symbol}` }));

/** A value of the load, and its unit, as they are read. */
export function loadNumber(id: LoadQuantity, value: number): string {
  const { unit, decimals } = quantityOf(id);
  return unit === 'mm' ? length(value, decimals) : figure(value, decimals);
}
export function loadUnit(id: LoadQuantity): string {
  const { unit } = quantityOf(id);
  return unit === 'mm' ? unitOf('mm') : unit;
}

/** Both in one. */
export function loadWords(id: LoadQuantity, value: number): string {
  const unit = loadUnit(id);
  return `${loadNumber(id, value)}${unit === '°' ? '' : ' '}${unit}`;
}

const quantityOf = (id: LoadQuantity): (typeof LOAD_QUANTITIES)[number] => LOAD_QUANTITIES.find((q) => q.id === id)!;
