import { Component, provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { ValueField } from './valueField';

@Component({
  imports: [ValueField],
  template: `<esq-value-field
    label="Depth"
    unit="mm"
    [value]="value()"
    [optional]="true"
    [symbols]="{ DC: 16 }"
    [accept]="accept"
    (entered)="entered.push($event)"
  />`,
})
class Holder {
  readonly value = signal<number | null>(2);
  readonly entered: (number | null)[] = [];
  readonly accept = (value: number | null): string | undefined =>
    value !== null && value <= 0 ? 'must be above 0' : undefined;
}

async function field() {
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(Holder);
  await fixture.whenStable();
  const host = fixture.nativeElement as HTMLElement;
  const input = host.querySelector('input')!;
  const type = async (text: string): Promise<void> => {
    input.value = text;
    input.dispatchEvent(new Event('change'));
    await fixture.whenStable();
  };
  return { fixture, holder: fixture.componentInstance, host, input, type };
}

describe('a value field', () => {
  it('takes numbers, values relative to the cutter, and nothing where that means something', async () => {
    const { holder, type } = await field();
    await type('1.5');
    await type('0.25 DC');
    await type('');
    expect(holder.entered).toEqual([1.5, 4, null]);
  });

  it('what is being typed stays when the value before it comes in late', async () => {
    const { fixture, holder, input } = await field();
    expect(input.value).toBe('2');
    input.value = '7';
    input.dispatchEvent(new Event('input'));
    holder.value.set(5);
    await fixture.whenStable();
    expect(input.value).toBe('7');
    input.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(holder.entered).toEqual([7]);
    holder.value.set(7.5);
    await fixture.whenStable();
    expect(input.value).toBe('7.5');
  });

  it('keeps what cannot be taken in sight, with the reason, tied to the field for readers of the screen', async () => {
    const { holder, host, input, type } = await field();
    for (const [text, why] of [
      ['0', /must be above 0/],
      ['deep', /./],
    ] as const) {
      await type(text);
      expect(input.value).toBe(text);
      expect(input.getAttribute('aria-invalid')).toBe('true');
      expect(host.querySelector(`#${input.getAttribute('aria-describedby')}`)?.textContent).toMatch(why);
    }
    expect(holder.entered).toEqual([]);
  });

  it('goes back to the value that holds on Escape, and when it stands for another value', async () => {
    const { fixture, holder, host, input, type } = await field();
    await type('-1');
    input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
    await fixture.whenStable();
    expect(input.value).toBe('2');
    expect(host.querySelector('.error')).toBeNull();
    await type('-1');
    holder.value.set(3);
    await fixture.whenStable();
    expect(input.value).toBe('3');
    expect(input.getAttribute('aria-invalid')).toBe('false');
  });

  it('says nothing when the same value is entered again', async () => {
    const { holder, type } = await field();
    await type('2');
    expect(holder.entered).toEqual([]);
  });
});
