import { area, feed, length, refusal, showIn, size, sizeOfUnit, told, typed, unitOf, volume } from './units';

describe('lengths in inches', () => {
  beforeEach(() => showIn('in'));
  afterEach(() => showIn('mm'));

  it('an inch is 25.4 mm, in areas and volumes too', () => {
    expect([length(25.4), length(-12.7), feed(2540)]).toEqual(['1.0000', '\u22120.5000', '100.0']);
    expect([area(25.4 ** 2, 2), volume(25.4 ** 3, 2)]).toEqual(['1.000', '1.000']);
    expect(['mm', 'mm/min', 'cm²', 'cm³/min', '°', 'kW', 'N/mm²'].map(unitOf)).toEqual([
      'in',
      'in/min',
      'in²',
      'in³/min',
      '°',
      'kW',
      'N/mm²',
    ]);
    expect([sizeOfUnit('mm'), sizeOfUnit('°')]).toEqual([25.4, 1]);
    expect([size(12.7), size(10)]).toEqual(['0.5', '0.3937']);
    expect([typed(12.7, 'mm'), typed(10, 'mm'), typed(10, '°')]).toEqual(['0.5', '0.3937', '10']);
  });

  it('bounds of a refused value are told in the unit that is typed', () => {
    expect(refusal('Too big: expected number to be <=127', 'mm')).toBe('Too big: expected number to be <=5 in');
    expect(refusal('Too small: expected number to be >=1', '°')).toBe('Too small: expected number to be >=1');
    showIn('mm');
    expect(refusal('expected number to be <=127', 'mm')).toBe('expected number to be <=127');
  });

  it.each([
    ['It goes 2.54 mm too deep at X 25.4 Y -12.70 Z 0.0.', 'It goes 0.100 in too deep at X 1.00 Y \u22120.500 Z 0.00.'],
    ['254.0 x 127.0 x 25.4 mm, out of 10 mm', '10.00 x 5.00 x 1.00 in, out of 0.394 in'],
    ['between 25.4 and 50.8 mm; 0.4 / 0.3 mm', 'between 1.00 and 2.00 in; 0.0157 / 0.0118 in'],
    ['It feeds 254 mm/min, at most 2540 mm/min', 'It feeds 10.0 in/min, at most 100.0 in/min'],
    ['16.4 cm³ of steel, 6.45 cm² of floor', '1.00 in³ of steel, 1.000 in² of floor'],
    ['reaches X 254 Y 25.4 mm, ⌀ 12.70 x 20 min', 'reaches X 10.0 Y 1.00 in, ⌀ 0.500 x 20 min'],
    ['T5 bull-nose 16 R2, 15°, 3 of 4 levels, 20 s, 80 % DC', 'T5 bull-nose 16 R2, 15°, 3 of 4 levels, 20 s, 80 % DC'],
  ])('%s', (mm, inches) => {
    expect(told(mm)).toBe(inches);
    showIn('mm');
    expect(told(mm)).toBe(mm);
  });
});
