import { signal } from '@angular/core';
import { figure } from './numbers';

/** Unit in which lengths are shown and typed. Everything is kept and calculated in mm. */
export type ShownUnit = 'mm' | 'in';

const KEPT_AS = 'esquisse.unit';
/** Of a value that is typed in another unit than it is kept in: inches to a quarter of a micrometre. */
const DECIMALS = 5;
/** Of a size in a list: inches to a ten thousandth. */
const LIST_DECIMALS = 4;
/** Digits that a number of a sentence has at least in inches, and decimals at most. */
const LEAST_DIGITS = 3;

export const shownUnit = signal<ShownUnit>(localStorage.getItem(KEPT_AS) === 'in' ? 'in' : 'mm');

export function showIn(unit: ShownUnit): void {
  shownUnit.set(unit);
  localStorage.setItem(KEPT_AS, unit);
}

/** What metric units are shown as in inches, and how many of them it is. Forces, powers and angles have no other form here. */
const INCH: Readonly<Record<string, readonly [name: string, size: number]>> = {
  mm: ['in', 25.4],
  'mm/min': ['in/min', 25.4],
  'mm/s²': ['in/s²', 25.4],
  'mm²': ['in²', 25.4 ** 2],
  'mm³': ['in³', 25.4 ** 3],
  'cm²': ['in²', 2.54 ** 2],
  'cm³': ['in³', 2.54 ** 3],
  'cm³/min': ['in³/min', 2.54 ** 3],
  m: ['ft', 0.3048],
  'm/min': ['ft/min', 0.3048],
};

/** What a metric unit is shown as, and how many of it that is. */
function shownAs(metric: string): readonly [name: string, size: number] {
  return (shownUnit() === 'in' ? INCH[metric] : undefined) ?? [metric, 1];
}

/** Name of a metric unit as it is shown: `cm³` in inches is `in³`. */
export function unitOf(metric: string): string {
  return shownAs(metric)[0];
}

/** How many of a metric unit are one of what it is shown as: 25.4 for mm in inches. */
export function sizeOfUnit(metric: string): number {
  return shownAs(metric)[1];
}

/** A value in a metric unit as it is shown, without its unit; in inches with about as many digits. */
export function shown(value: number, metric: string, decimals: number): string {
  const size = sizeOfUnit(metric);
  return figure(value / size, decimals + Math.max(0, Math.round(Math.log10(size))));
}

/** A length in mm as it is shown, without its unit. */
export function length(mm: number, decimals = 3): string {
  return shown(mm, 'mm', decimals);
}

/** A feed in mm/min as it is shown, without its unit. */
export function feed(mmPerMin: number): string {
  return shown(mmPerMin, 'mm/min', 0);
}

/** An area in mm² as it is shown, in cm² or in², without its unit. */
export function area(mm2: number, decimals: number): string {
  return shown(mm2 / 100, 'cm²', decimals);
}

/** A volume in mm³ as it is shown, in cm³ or in³, without its unit. */
export function volume(mm3: number, decimals: number): string {
  return shown(mm3 / 1000, 'cm³', decimals);
}

const NUMBER = '[-\u2212]?\\d+(?:\\.\\d+)?(?:e-?\\d+)?';
const A_NUMBER = new RegExp(NUMBER, 'g');
/** One or more numbers before a metric unit, or one behind X, Y, Z or ⌀. */
const QUANTITIES = new RegExp(
  `((?:${NUMBER} (?:x|/|to|and) )*${NUMBER}) ([mc]?m(?:[²³]|/s²)?(?:/min)?)(?![\\w²³/])|([XYZ⌀] )(${NUMBER})( mm)?(?![\\w%²³/])`,
  'g',
);

/** A sentence of the core in the unit that is shown: lengths in it have their unit behind them, or X, Y, Z or ⌀ before. */
export function told(sentence: string): string {
  if (shownUnit() === 'mm') return sentence;
  const converted = (list: string, metric: string): string =>
    list.replace(A_NUMBER, (text) => {
      const value = Number(text.replace('\u2212', '-'));
      const size = Math.abs(value) / sizeOfUnit(metric);
      const digits = size > 0 ? LEAST_DIGITS - 1 - Math.floor(Math.log10(size)) : 0;
      const told = (/\.(\d+)/.exec(text)?.[1]!.length ?? 0) + 1;
      return figure(value / sizeOfUnit(metric), Math.max(told, Math.min(LIST_DECIMALS, Math.max(0, digits))));
    });
  return sentence.replace(
    QUANTITIES,
    (all, list?: string, metric?: string, axis?: string, at?: string, mm?: string) => {
      if (axis !== undefined) return `${axis}${converted(at!, 'mm')}${mm ? ' in' : ''}`;
      return metric! in INCH ? `${converted(list!, metric!)} ${unitOf(metric!)}` : all;
    },
  );
}

/** Why a value in a metric unit was refused: bounds in it, such as `<=100`, are of that unit and have none behind them. */
export function refusal(sentence: string, metric: string): string {
  const bounds = new RegExp(`([<>]=?) ?(${NUMBER})(?![\\w.%°]| mm)`, 'g');
  return told(
    sizeOfUnit(metric) === 1
      ? sentence
      : sentence.replace(
          bounds,
          (_, sign: string, bound: string) => `${sign}${typed(Number(bound), metric)} ${unitOf(metric)}`,
        ),
  );
}

/** A value in a metric unit as it is typed: with as many decimals as it has. */
export function typed(value: number, metric: string): string {
  const size = sizeOfUnit(metric);
  return String(size === 1 ? value : Number((value / size).toFixed(DECIMALS)));
}

/** A size in mm as a list shows it, without its unit. */
export function size(mm: number): string {
  return shownUnit() === 'mm' ? String(mm) : String(Number((mm / sizeOfUnit('mm')).toFixed(LIST_DECIMALS)));
}
