import { computed, inject, Injectable, signal } from '@angular/core';
import {
  type Crib,
  cribSchema,
  type CutterKind,
  EsquisseError,
  houseValuesSchema,
  isCancelled,
  type Machine,
  machineSchema,
  type Magazine,
  magazineSchema,
  magazinesSchema,
  type Material,
  materialSchema,
  messageOf,
  type Value,
  counterpart,
  type Tool,
  withHouseValue,
  withTool,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { z } from 'zod';
import { FileReading } from '../engine/fileReading';
import { saveFile } from '../shared/files';
import { PlanActions } from '../state/plan.reducer';
import { keepHouse, keptHouse } from './database';
import { firstCrib } from './firstCrib';

const HOUSE_FORMAT = 'esquisse-house';

const houseSchema = z.object({
  format: z.literal(HOUSE_FORMAT),
  materials: z.array(materialSchema).max(500),
  machines: z.array(machineSchema).max(200),
  /** What steps begin with. */
  steps: houseValuesSchema.default({}),
  /** Cutters for all jobs; null: those that a shop begins with. */
  crib: cribSchema.nullable().default(null),
  /** What stands in the magazines of the machines, by their names. */
  magazines: magazinesSchema.default({}),
});
export type HouseLists = z.infer<typeof houseSchema>;

/**
 * What a shop begins with: steels by their EN ISO 4957 and EN 10083 names, kc1.1 and mc as in machining handbooks, from
 * memory; hardness in HBW, of hardened steels converted from HRC after EN ISO 18265, from memory; machines are made up.
 */
const FIRST: HouseLists = {
  format: HOUSE_FORMAT,
  steps: {},
  crib: null,
  magazines: {},
  materials: [
    { name: '40CrMnMo7, pre-hardened 300 HB', group: 'P', kc11: 2500, mc: 0.26, hardness: 300, density: 7.8 },
    { name: '40CrMnNiMo8-6-4, pre-hardened 310 HB', group: 'P', kc11: 2500, mc: 0.26, hardness: 310, density: 7.8 },
    { name: 'X38CrMoV5-1, annealed 220 HB', group: 'P', kc11: 2250, mc: 0.24, hardness: 220, density: 7.8 },
    { name: 'X38CrMoV5-1, 52 HRC', group: 'H', kc11: 4300, mc: 0.24, hardness: 512, density: 7.8 },
    { name: 'X40CrMoV5-1, 50 HRC', group: 'H', kc11: 4200, mc: 0.24, hardness: 481, density: 7.8 },
    { name: 'X153CrMoV12, annealed 250 HB', group: 'P', kc11: 2400, mc: 0.25, hardness: 250, density: 7.7 },
    { name: 'X153CrMoV12, 60 HRC', group: 'H', kc11: 4800, mc: 0.25, hardness: 654, density: 7.7 },
    { name: 'X40Cr14, 300 HB', group: 'M', kc11: 2350, mc: 0.21, hardness: 300, density: 7.7 },
    { name: 'C45', group: 'P', kc11: 2220, mc: 0.14, hardness: 200, density: 7.85 },
    { name: '42CrMo4', group: 'P', kc11: 2500, mc: 0.26, hardness: 280, density: 7.8 },
  ],
  machines: [
    {
      name: 'Three-axis machining centre',
      travelX: 800,
      travelY: 600,
      travelZ: 500,
      minSpindle: 50,
      maxSpindle: 18000,
      power: 15,
      torque: 80,
      rapid: 20000,
      acceleration: 3000,
      toolChange: 8,
      runUp: 2,
      rounding: 0.01,
      timeFactor: 1,
      maxFeed: 12000,
    },
    {
      name: 'Fast spindle, small table',
      travelX: 500,
      travelY: 400,
      travelZ: 350,
      minSpindle: 2000,
      maxSpindle: 36000,
      power: 12,
      torque: 9,
      rapid: 30000,
      acceleration: 8000,
      toolChange: 4,
      runUp: 1.5,
      rounding: 0.01,
      timeFactor: 1,
      maxFeed: 20000,
    },
    {
      name: 'Heavy roughing centre',
      travelX: 1500,
      travelY: 900,
      travelZ: 800,
      minSpindle: 20,
      maxSpindle: 8000,
      power: 30,
      torque: 420,
      rapid: 15000,
      acceleration: 1800,
      toolChange: 12,
      runUp: 3,
      rounding: 0.01,
      timeFactor: 1,
      maxFeed: 10000,
    },
  ],
};

/** The shop's own lists of materials and machines, kept in the browser, saved to and read from a file. */
@Injectable({ providedIn: 'root' })
export class House {
  private readonly store = inject(Store);
  private readonly reader = inject(FileReading);
  private readonly lists = signal<HouseLists>(FIRST);
  /** Whether the last change of the lists is kept in the browser's database. */
  readonly kept = signal(false);
  readonly materials = computed(() => this.lists().materials);
  readonly machines = computed(() => this.lists().machines);
  readonly steps = computed(() => this.lists().steps);
  /** The shop's cutters. */
  readonly crib = computed((): Crib => this.lists().crib ?? firstCrib(FIRST.materials[0]!, FIRST.machines[0]!));

  constructor() {
    void this.guarded(async () => {
      const kept = await keptHouse();
      const read = houseSchema.safeParse(kept);
      if (read.success) this.lists.set(read.data);
    });
  }

  /** Adds an entry, or replaces the one of the same name. */
  keepMaterial(material: Material): void {
    this.change((l) => ({ ...l, materials: [...l.materials.filter((m) => m.name !== material.name), material] }));
  }

  keepMachine(machine: Machine): void {
    this.change((l) => ({ ...l, machines: [...l.machines.filter((m) => m.name !== machine.name), machine] }));
  }

  dropMaterial(name: string): void {
    this.change((l) => ({ ...l, materials: l.materials.filter((m) => m.name !== name) }));
  }

  dropMachine(name: string): void {
    this.change((l) => ({ ...l, machines: l.machines.filter((m) => m.name !== name) }));
  }

  /** What stands in the magazine of a machine; undefined: nobody has said. */
  magazineOf(machine: string): Magazine | undefined {
    return this.lists().magazines[machine];
  }

  keepMagazine(machine: string, magazine: Magazine): void {
    this.change((l) => ({ ...l, magazines: { ...l.magazines, [machine]: magazineSchema.parse(magazine) } }));
  }

  /** Makes a value what steps of a kind begin with for a kind of cutter; undefined gives the built-in one back. */
  keepStepValue(kindId: string, cutter: CutterKind, key: string, value: Value | undefined): void {
    this.change((l) => ({ ...l, steps: withHouseValue(l.steps, kindId, cutter, key, value) }));
  }

  /** Puts a tool into the shop's crib: in place of the one of its number, or as one more. */
  giveTool(tool: Tool): void {
    const crib = this.crib();
    const own = counterpart(crib, tool)?.assembly.id;
    this.change((l) => ({ ...l, crib: cribSchema.parse(withTool(crib, tool, own).crib) }));
  }

  keepCrib(crib: Crib): void {
    this.change((l) => ({ ...l, crib }));
  }

  saveFile(): void {
    saveFile('house-lists.json', JSON.stringify(this.lists(), null, 2), 'application/json');
  }

  /** Takes lists from a file: all of it or nothing. */
  async openFile(file: File): Promise<void> {
    await this.guarded(async () => {
      const read = houseSchema.safeParse(await this.reader.json(file));
      if (!read.success) {
        const issue = read.error.issues[0]!;
        throw new EsquisseError('file-kind', `"${file.name}": ${issue.path.join('.') || 'the file'}: ${issue.message}`);
      }
      this.change(() => read.data);
    });
  }

  private change(change: (lists: HouseLists) => HouseLists): void {
    this.lists.update(change);
    this.kept.set(false);
    void this.guarded(async () => {
      await keepHouse(this.lists());
      this.kept.set(true);
    });
  }

  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      if (isCancelled(error)) return;
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }
}
