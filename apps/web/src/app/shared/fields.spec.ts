import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { Component, provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatSelectHarness } from '@angular/material/select/testing';
import { ChoiceField, choicesOf } from './choiceField';
import { TextField } from './textField';

@Component({
  imports: [ChoiceField, TextField],
  template: `
    <esq-text-field label="Name" [value]="name()" [accept]="accept" />
    <esq-choice-field label="Axis" [value]="axis()" [options]="axes()" (chosen)="wish($event)" />
  `,
})
class Holder {
  readonly name = signal('first');
  readonly axis = signal('X');
  readonly takes = signal(true);
  /** Made anew whenever it is read, as lists in templates are. */
  readonly axes = () => choicesOf(['X', 'Y', 'Z']);
  readonly wished: string[] = [];
  readonly accept = (name: string): string | undefined => {
    if (name === '') return 'It needs a name.';
    this.name.set(name);
    return undefined;
  };
  wish(axis: string): void {
    this.wished.push(axis);
    if (this.takes()) this.axis.set(axis);
  }
}

async function holder() {
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(Holder);
  await fixture.whenStable();
  const host = fixture.nativeElement as HTMLElement;
  const input = host.querySelector<HTMLInputElement>('esq-text-field input')!;
  const type = async (text: string): Promise<void> => {
    input.value = text;
    input.dispatchEvent(new Event('input'));
    await fixture.whenStable();
  };
  const enter = async (): Promise<void> => {
    input.dispatchEvent(new Event('change'));
    await fixture.whenStable();
  };
  return { fixture, is: fixture.componentInstance, host, input, type, enter };
}

describe('a text field', () => {
  it('keeps what cannot be taken in sight, with the reason, until another value holds', async () => {
    const { fixture, is, host, input, type, enter } = await holder();
    await type('');
    await enter();
    expect(is.name()).toBe('first');
    expect(input.value).toBe('');
    expect(input.getAttribute('aria-invalid')).toBe('true');
    expect(host.querySelector('mat-error')!.textContent).toContain('It needs a name.');
    is.name.set('second');
    await fixture.whenStable();
    expect(input.value).toBe('second');
    expect(host.querySelector('mat-error')).toBeNull();
  });

  it('what is being typed stays when the value changes meanwhile', async () => {
    const { fixture, is, input, type, enter } = await holder();
    await type('mine');
    is.name.set('from elsewhere');
    await fixture.whenStable();
    expect(input.value).toBe('mine');
    await enter();
    expect(is.name()).toBe('mine');
  });
});

describe('a choice', () => {
  it('shows what holds: the choice that was taken, and after one that was refused the one before', async () => {
    const { fixture, is } = await holder();
    const list = await TestbedHarnessEnvironment.loader(fixture).getHarness(MatSelectHarness);
    await list.clickOptions({ text: 'Y' });
    expect(await list.getValueText()).toBe('Y');
    is.takes.set(false);
    await list.clickOptions({ text: 'Z' });
    expect(is.wished).toEqual(['Y', 'Z']);
    await vi.waitFor(async () => expect(await list.getValueText()).toBe('Y'));
  });
});
