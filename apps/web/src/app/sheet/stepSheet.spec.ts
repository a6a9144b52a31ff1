import { signal } from '@angular/core';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { MatSelectHarness } from '@angular/material/select/testing';
import { type Box, layWithZ, toolOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { aPage, summaryOf, told, twoSteps } from '../../../test/page';
import type { PieceView } from '../engine/views';
import { Drawings } from '../keeping/drawings';
import { JobActions, jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';
import { withCutterChange } from '../state/edit';
import { Editor } from '../state/editor';
import { StepSheet } from './stepSheet';

describe('the sheet of a step', () => {
  let store: Store;
  let fixture: ComponentFixture<StepSheet>;
  let host: HTMLElement;
  const piece = signal<PieceView | undefined>(undefined);

  beforeEach(async () => {
    piece.set(undefined);
    store = aPage(twoSteps(), { piece, stop: () => undefined, expected: () => Promise.resolve(undefined) }, [
      { provide: Drawings, useValue: { notes: signal([]) } },
    ]);
    fixture = TestBed.createComponent(StepSheet);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
  });

  const field = (key: string) => host.querySelector<HTMLInputElement>(`[data-key="${key}"]`)!;
  const set = async (key: string, text: string): Promise<void> => {
    field(key).value = text;
    field(key).dispatchEvent(new Event('change'));
    await fixture.whenStable();
  };
  const choose = async (stepId: string): Promise<void> => {
    store.dispatch(JobActions.stepSelected({ stepId }));
    await fixture.whenStable();
  };
  /** Opens all that is folded: what a fold holds is made then. */
  const unfold = async (): Promise<void> => {
    await fixture.whenStable();
    for (const head of host.querySelectorAll<HTMLElement>('mat-expansion-panel-header[aria-expanded="false"]'))
      head.click();
    await fixture.whenStable();
  };
  const values = (k: number): Record<string, unknown> => store.selectSignal(jobFeature.selectJob)()!.steps[k]!.values;
  const sentence = (): string => host.querySelector('[data-testid="sentence"]')!.textContent.replace(/\s+/g, ' ');

  it('says in its sentence what its fields say', async () => {
    await set('ap', '1.25');
    expect(values(0)['ap']).toBe(1.25);
    expect(sentence()).toContain('1.25 mm levels');
  });

  it('leaves the job as it was when a value is refused, and shows that refusal for no other step', async () => {
    const before = store.selectSignal(jobFeature.selectJob)();
    await set('tolerance', '-1');
    expect(store.selectSignal(jobFeature.selectJob)()).toBe(before);
    expect(field('tolerance').getAttribute('aria-invalid')).toBe('true');
    await choose('s2');
    // both kinds of step have a field of that key
    expect(field('tolerance')).not.toBeNull();
    expect(host.querySelectorAll('[aria-invalid="true"]')).toHaveLength(0);
    await choose('s1');
    expect(field('tolerance').value).toBe(String(values(0)['tolerance']));
  });

  it('offers the width that goes with another depth at the load of the house values, and tells what the cutter does not bear', async () => {
    await unfold();
    expect(host.querySelector('[data-testid="keeps volume"]')).toBeNull();
    const width = Number(values(0)['ae']);
    await set('ap', String(Number(values(0)['ap']) / 2));
    const offer = host.querySelector<HTMLElement>('[data-testid="keeps volume"] button')!;
    // feeds are those of the crib: half as deep is twice as wide
    expect(Number.parseFloat(offer.textContent)).toBeCloseTo(2 * width, 1);
    offer.click();
    await fixture.whenStable();
    expect(values(0)['ae']).toBeCloseTo(2 * width, 1);
    expect(host.querySelector('[data-testid="keeps volume"]')).toBeNull();

    const job = store.selectSignal(jobFeature.selectJob)()!;
    const { id } = toolOf(job.crib, job.steps[0]!.assemblyId)!.cutter;
    TestBed.inject(Editor).change((now) => withCutterChange(now, id, { RMPX: 1, mostAe: width }));
    await fixture.whenStable();
    expect(host.textContent).toContain('This cutter goes down by 1° at most');
    expect(host.textContent).toContain(`This cutter bears ${width} mm at most`);
  });

  it('the side step of a scallop is shown beside it, and the scallop follows the one that is typed', async () => {
    await choose('s2');
    const key = 'scallop Side step on level ground';
    const job = store.selectSignal(jobFeature.selectJob)()!;
    const { RE } = toolOf(job.crib, job.steps[1]!.assemblyId)!.cutter;
    // a chord of the ball: (s / 2)² = RE² - (RE - h)²
    const chord = (h: number): number => 2 * Math.sqrt(RE ** 2 - (RE - h) ** 2);
    expect(Number(field(key).value)).toBeCloseTo(chord(Number(values(1)['scallop'])), 3);
    await set(key, '0.8');
    expect(chord(Number(values(1)['scallop']))).toBeCloseTo(0.8, 2);
    const before = values(1)['scallop'];
    await set(key, '-1');
    expect(values(1)['scallop']).toBe(before);
    expect(field(key).getAttribute('aria-invalid')).toBe('true');
  });

  it('a value typed by the cutter is shown as it was typed, follows the cutter, and is a number again when one is typed', async () => {
    await set('ap', '0.1 DC');
    const job = store.selectSignal(jobFeature.selectJob);
    const { cutter } = toolOf(job()!.crib, job()!.steps[0]!.assemblyId)!;
    expect(values(0)['ap']).toBeCloseTo(0.1 * cutter.DC, 9);
    expect(field('ap').value).toBe('0.1 DC');
    TestBed.inject(Editor).make('crib', (now) => withCutterChange(now, cutter.id, { DC: 12 }));
    await fixture.whenStable();
    expect(values(0)['ap']).toBeCloseTo(1.2, 9);
    expect(field('ap').value).toBe('0.1 DC');
    // one that gives nothing in range says so at its field, and the value stays
    await set('ap', '2 DC - 20');
    TestBed.inject(Editor).make('crib', (now) => withCutterChange(now, cutter.id, { DC: 10 }));
    await fixture.whenStable();
    expect(values(0)['ap']).toBeCloseTo(4, 9);
    expect(field('ap').getAttribute('aria-invalid')).toBe('true');
    expect(host.textContent).toContain('2 DC - 20 gives 0 mm');
    await set('ap', '1.5');
    expect(job()!.steps[0]!.relations).toBeUndefined();
    expect(field('ap').getAttribute('aria-invalid')).not.toBe('true');
  });

  it('speed and feed are the step’s own: one set by hand moves its pair, an emptied field follows again', async () => {
    [...host.querySelectorAll<HTMLElement>('mat-expansion-panel-header')]
      .find((h) => h.textContent.includes('Speed and feeds'))!
      .click();
    await fixture.whenStable();
    const n = Number(field('n').value);
    const before = field('vf').value;
    await set('vf', '500');
    const own = () => store.selectSignal(jobFeature.selectJob)()!.steps[0]!.cutting.own;
    expect(own()).toEqual({ vf: 500 });
    expect(Number(field('n').value)).toBe(n);
    expect(Number(field('entry').value)).toBe(200);
    await set('fz', '0.05');
    expect(own()).toEqual({ fz: 0.05 });
    await set('fz', '');
    expect(own()).toEqual({});
    expect(field('vf').value).toBe(before);
  });

  it('shows the choice that holds after one was refused, and why it was', async () => {
    const page = TestbedHarnessEnvironment.loader(fixture);
    const direction = await page.getHarness(MatSelectHarness.with({ selector: '[data-key="direction"]' }));
    const held = await direction.getValueText();
    // another tab works on the job
    store.dispatch(JobActions.readOnlySet({ readOnly: true }));
    await direction.clickOptions({ text: /conventional/ });
    expect(held).toBe('climb');
    await vi.waitFor(async () => expect(await direction.getValueText()).toBe(held));
    expect(store.selectSignal(planFeature.selectTrouble)()?.message).toContain('open in another tab');
  });

  it('shows where more stays than is asked for, and stands there', async () => {
    const place = { x: 3, y: 10, z: 5, area: 4, thickest: 0.4, slope: 80, motion: 3 };
    const bands = [{ from: 75, to: 90, area: 250, thickest: 0.4 }];
    told(store, [summaryOf('s1', { unfinished: { most: 0.02, bands, places: [place] } })], ['s1']);
    await unfold();
    const section = host.querySelector('[data-testid="unfinished"]')!;
    expect(section.querySelector('mat-expansion-panel-header')!.textContent.replace(/\s+/g, ' ')).toContain(
      'Stays above 0.020 mm: up to 0.400 mm on 2.5 cm²',
    );
    section.querySelector('button')!.click();
    expect(store.selectSignal(planFeature.selectMoment)()).toEqual({ stepId: 's1', motion: 3 });
  });

  it('tells what a person should look at, and of hard steel where the job is some', async () => {
    const at = { x: 9, y: 6, z: 4 };
    const notes = [{ ...at, why: 'It begins on steel that leans' }];
    const hardSteel = [{ ...at, why: 'Hard steel: a full slot' }];
    told(store, [summaryOf('s1', { notes, hardSteel } as never)], ['s1']);
    await fixture.whenStable();
    const headings = (): string => host.textContent.replace(/\s+/g, ' ');
    expect(headings()).toContain('1 thing to look at');
    expect(headings()).not.toContain('a full slot');
    TestBed.inject(Editor).make('piece', (job) => ({ ...job, hardSteel: true }));
    await unfold();
    expect(headings()).toContain('2 things to look at');
    expect(headings()).toContain('Hard steel: a full slot');
  });

  it('shows what was left out, and stands at the motion that passes nearest to it', async () => {
    told(store, [summaryOf('s1', { leftOut: [{ x: 9, y: 6, z: 4, why: 'Too narrow' }] as never })], ['s1']);
    await unfold();
    const row = [...host.querySelectorAll('.place')].find((e) => e.textContent.includes('Too narrow'))!.parentElement!;
    row.querySelector('button')!.click();
    expect(store.selectSignal(planFeature.selectMoment)()).toEqual({ stepId: 's1', motion: 2 });
  });

  it('offers the ways out where the holder is too low: what is safe is a setting of the step', async () => {
    const finding = {
      kind: 'holder',
      text: 'The holder is 40.00 mm too low',
      motion: 2,
      count: 1,
      amount: 40,
      places: [],
    };
    const reach = [100, ...Array<number>(98).fill(0), 100];
    told(store, [summaryOf('s1', { findings: [finding] as never, neededStickOut: 100, reach })], ['s1']);
    await fixture.whenStable();
    const fold = host.querySelector('[data-testid="reach"]')!;
    expect(fold.textContent).toContain('too short');
    const safe = fold.querySelector<HTMLButtonElement>('[data-testid="way-safe"]')!;
    // half of the length wants a stick-out of 1 mm, the other half one of 100
    expect(safe.textContent.replace(/\s+/g, ' ')).toContain('50 % of the length stays');
    safe.click();
    await fixture.whenStable();
    expect(store.selectSignal(jobFeature.selectJob)()!.steps[0]!.travel.reach).toBe('safe');
  });

  it('tells where nothing touches, but with less room than is usual', async () => {
    const reach = [...Array<number>(59).fill(1)];
    told(store, [summaryOf('s1', { neededStickOut: 59.6, reach })], ['s1']);
    await unfold();
    const close = host.querySelector('[data-testid="reach-close"]')!;
    expect(close.textContent).toContain('clears by 0.4');
    told(store, [summaryOf('s1', { neededStickOut: 58.9, reach })], ['s1']);
    await fixture.whenStable();
    expect(host.querySelector('[data-testid="reach-close"]')).toBeNull();
  });

  it('a height bound to the part stays there when the zero moves; typed as an offset, and let go', async () => {
    const part: Box = { minX: 0, maxX: 80, minY: 0, maxY: 50, minZ: -7, maxZ: 30 };
    piece.set({ boxes: { part } } as never);
    told(store, [], []);
    await fixture.whenStable();
    const press = async (label: RegExp): Promise<void> => {
      [...document.querySelectorAll<HTMLElement>('button')]
        .find((b) => label.test(b.getAttribute('aria-label') ?? b.textContent))!
        .click();
      await fixture.whenStable();
    };
    await press(/^Bind Down to height/);
    await press(/To the part's lowest place/);
    expect(values(0)['bottom']).toBe(-37);
    told(store, [], []);
    await set('bottom above', '0.5');
    expect(values(0)['bottom']).toBe(-36.5);
    const editor = TestBed.inject(Editor);
    const zeroAt = (z: 'high' | 'low') =>
      editor.change((job) => ({
        ...job,
        setup: { ...job.setup, workZero: { ...job.setup.workZero, z } },
      }));
    told(store, [], []);
    expect(zeroAt('low')).toBeUndefined();
    expect(values(0)['bottom']).toBe(0.5);
    // as long as it is not known how the part lies nothing is guessed
    expect(zeroAt('high')).toContain('still being read');
    expect(values(0)['bottom']).toBe(0.5);
    // in a part that lies another way it is bound no more, and that is told
    told(store, [], []);
    editor.change((job) => ({ ...job, part: { ...job.part!, lay: layWithZ(job.part!.lay, [1, 0, 0]) } }));
    expect(store.selectSignal(jobFeature.selectJob)()!.steps[0]!.bound).toBeUndefined();
    expect(values(0)['bottom']).toBe(0.5);
    expect(document.querySelector('mat-snack-bar-container')!.textContent).toContain('bound to the part no more');
    store.dispatch(JobActions.undo());
    told(store, [], []);
    await fixture.whenStable();
    await press(/^Let Down to height go/);
    told(store, [], []);
    expect(zeroAt('high')).toBeUndefined();
    expect(values(0)['bottom']).toBe(0.5);
  });

  it('says that its figures are of an earlier state once a value is changed', async () => {
    told(store, [summaryOf('s1')], ['s1']);
    await fixture.whenStable();
    const calculate = host.querySelector<HTMLButtonElement>('[data-testid="calculate"]')!;
    expect(calculate.ariaDisabled).toBe('true');
    await set('ap', '1.25');
    expect(calculate.ariaDisabled).toBe(null);
  });
});
