import { signal } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { type Magazine, magazineSchema } from '@esquisse/core';
import { aPage, twoSteps } from '../../../../test/page';
import { House } from '../../keeping/house';
import { MagazineDialog } from './magazineDialog';

describe('the magazine of the job’s machine', () => {
  let fixture: ComponentFixture<MagazineDialog>;
  let host: HTMLElement;
  const kept = signal<Record<string, Magazine>>({});
  const job = twoSteps();
  const machine = job.setup.machine.name;
  const told = () => host.querySelector('[data-testid=magazine-told]')!.textContent.trim();
  const rows = () => [...host.querySelectorAll('table tr')].slice(1).map((r) => r.className);

  const open = async (magazine: Partial<Magazine>): Promise<void> => {
    kept.set({ [machine]: magazineSchema.parse(magazine) });
    const house = {
      steps: signal({}),
      crib: signal(job.crib),
      magazineOf: (name: string) => kept()[name],
      keepMagazine: (name: string, m: Magazine) => kept.update((all) => ({ ...all, [name]: m })),
    };
    aPage(job, {}, [{ provide: House, useValue: house }]);
    fixture = TestBed.createComponent(MagazineDialog);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
  };
  const press = async (name: string): Promise<void> => {
    const button = [...host.querySelectorAll('button')].find(
      (b) => (b.getAttribute('aria-label') ?? b.textContent.trim()) === name,
    );
    button!.click();
    await fixture.whenStable();
  };

  it('tells what is to be put in, and after the changes that all is loaded', async () => {
    await open({ places: 3, loaded: [{ place: 2, number: 77, made: 'a drill' }] });
    expect(told()).toBe('0 of 2 tools of this job are loaded, 2 to put in.');
    expect(rows()).toEqual(['in', 'spare', 'in']);
    await press('Changes made');
    expect(told()).toBe('All 2 tools of this job are loaded.');
    expect(kept()[machine]!.loaded.map((l) => l.place)).toEqual([1, 2, 3]);
  });

  it('makes room where there is none, and tells which tools find no place at all', async () => {
    await open({ places: 1, loaded: [{ place: 1, number: 77, made: 'a drill' }] });
    expect(told()).toBe('0 of 2 tools of this job are loaded, 1 to put in, 1 to take out.');
    expect(host.querySelector('.wrong')!.textContent).toMatch(/^No place is left for T\d+\.$/);
  });

  it('a place that another tool has is refused at its field, and nothing is changed', async () => {
    await open({
      places: 6,
      loaded: [
        { place: 1, number: 77, made: 'a drill' },
        { place: 2, number: 78, made: 'a reamer' },
      ],
    });
    const before = kept();
    const field = host.querySelector<HTMLInputElement>('input[aria-label="Place of T77"]')!;
    field.value = '2';
    field.dispatchEvent(new Event('input'));
    field.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    expect(kept()).toBe(before);
    expect(field.getAttribute('aria-invalid')).toBe('true');
    await press('T78 is not loaded');
    expect(kept()[machine]!.loaded.map((l) => l.number)).toEqual([77]);
  });
});
