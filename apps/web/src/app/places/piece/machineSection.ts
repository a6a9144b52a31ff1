import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { type Machine, type Material, POSTS } from '@esquisse/core';
import { House } from '../../keeping/house';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';

const MACHINE_FIELDS: [keyof Machine, string, string][] = [
  ['travelX', 'Travel in X', 'mm'],
  ['travelY', 'Travel in Y', 'mm'],
  ['travelZ', 'Travel in Z', 'mm'],
  ['minSpindle', 'Spindle from', '1/min'],
  ['maxSpindle', 'Spindle to', '1/min'],
  ['power', 'Power', 'kW'],
  ['torque', 'Torque', 'Nm'],
  ['maxFeed', 'Largest feed', 'mm/min'],
  ['rapid', 'Rapid', 'mm/min'],
  ['acceleration', 'Acceleration', 'mm/s²'],
];
const MATERIAL_FIELDS: [keyof Material, string, string][] = [
  ['kc11', 'kc1.1', 'N/mm²'],
  ['mc', 'mc', ''],
  ['density', 'Density', 'kg/dm³'],
];
const GROUPS: Material['group'][] = ['P', 'M', 'K', 'N', 'S', 'H'];

/** Material and machine of the job, taken from the shop's own lists and changed here. */
@Component({
  selector: 'esq-machine-section',
  imports: [ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (job(); as j) {
      <section class="section">
        <h2>Material</h2>
        <div class="row">
          <label for="material">Steel</label>
          <select id="material" class="value" (change)="chooseMaterial($any($event.target).value)">
            @if (!knownMaterial()) {
              <option selected>{{ j.material.name }}</option>
            }
            @for (m of house.materials(); track m.name) {
              <option [value]="m.name" [selected]="m.name === j.material.name">{{ m.name }}</option>
            }
          </select>
        </div>
        <div class="row">
          <span>ISO 513 group, kc1.1, mc</span
          ><span class="number">{{ j.material.group }}, {{ j.material.kc11 }}, {{ j.material.mc }}</span>
        </div>
        <button class="plain" [attr.aria-expanded]="openMaterial()" (click)="openMaterial.set(!openMaterial())">
          {{ openMaterial() ? 'less' : 'change its values' }}
        </button>
        @if (openMaterial()) {
          <div class="row">
            <label for="material-name">Name, EN ISO 4957, hardness</label>
            <input
              id="material-name"
              class="value name"
              [value]="j.material.name"
              (change)="material({ name: $any($event.target).value })"
            />
          </div>
          <div class="row">
            <label for="group">ISO 513 group</label>
            <select id="group" class="value" (change)="material({ group: $any($event.target).value })">
              @for (g of groups; track g) {
                <option [value]="g" [selected]="g === j.material.group">{{ g }}</option>
              }
            </select>
          </div>
          @for (f of materialFields; track f[0]) {
            <esq-value-field
              [label]="f[1]"
              [key]="f[0]"
              [value]="j.material[f[0]]"
              [unit]="f[2]"
              [accept]="materialAcceptor(f[0])"
            />
          }
          <button class="press" (click)="house.keepMaterial(j.material)">keep in the house list</button>
          @if (knownMaterial()) {
            <button class="plain" (click)="house.dropMaterial(j.material.name)">take off the list</button>
          }
        }
      </section>
      <section class="section">
        <h2>Machine</h2>
        <div class="row">
          <label for="machine">Machine</label>
          <select id="machine" class="value" (change)="chooseMachine($any($event.target).value)">
            @if (!knownMachine()) {
              <option selected>{{ j.setup.machine.name }}</option>
            }
            @for (m of house.machines(); track m.name) {
              <option [value]="m.name" [selected]="m.name === j.setup.machine.name">{{ m.name }}</option>
            }
          </select>
        </div>
        <div class="row">
          <label for="post">Post</label>
          <select id="post" class="value" (change)="post($any($event.target).value)">
            @for (p of posts; track p.name) {
              <option [value]="p.id" [selected]="p.id === j.setup.post">{{ p.name }}</option>
            }
          </select>
        </div>
        <esq-value-field
          label="Crossing height over the block"
          key="safeHeight"
          [value]="j.setup.safeHeight"
          unit="mm"
          [accept]="acceptSafe"
        />
        <button class="plain" [attr.aria-expanded]="openMachine()" (click)="openMachine.set(!openMachine())">
          {{ openMachine() ? 'less' : 'change its values' }}
        </button>
        @if (openMachine()) {
          <div class="row">
            <label for="machine-name">Name</label>
            <input
              id="machine-name"
              class="value name"
              [value]="j.setup.machine.name"
              (change)="machine({ name: $any($event.target).value })"
            />
          </div>
          @for (f of machineFields; track f[0]) {
            <esq-value-field
              [label]="f[1]"
              [key]="f[0]"
              [value]="j.setup.machine[f[0]]"
              [unit]="f[2]"
              [accept]="machineAcceptor(f[0])"
            />
          }
          <button class="press" (click)="house.keepMachine(j.setup.machine)">keep in the house list</button>
          @if (knownMachine()) {
            <button class="plain" (click)="house.dropMachine(j.setup.machine.name)">take off the list</button>
          }
        }
        <div>
          @if (house.kept()) {
            <span class="pencil" data-testid="house-kept">The lists are kept in this browser.</span>
          }
          <button class="plain" (click)="house.saveFile()">save the house lists</button>
          <button class="plain" (click)="file.click()">read them …</button>
          <input #file type="file" hidden accept=".json" data-testid="house-file" (change)="readLists($event)" />
        </div>
      </section>
    }
  `,
  styles: `
    .name {
      width: 210px;
    }
  `,
})
export class MachineSection {
  private readonly editor = inject(Editor);
  protected readonly house = inject(House);
  protected readonly job = this.editor.job;
  protected readonly groups = GROUPS;
  protected readonly machineFields = MACHINE_FIELDS;
  protected readonly materialFields = MATERIAL_FIELDS;
  protected readonly posts = POSTS;
  protected readonly openMaterial = signal(false);
  protected readonly openMachine = signal(false);
  protected readonly knownMaterial = computed(() =>
    this.house.materials().some((m) => m.name === this.job()?.material.name),
  );
  protected readonly knownMachine = computed(() =>
    this.house.machines().some((m) => m.name === this.job()?.setup.machine.name),
  );

  protected readonly acceptSafe = (value: number | null): string | undefined =>
    this.editor.change((job) => ({ ...job, setup: { ...job.setup, safeHeight: value ?? 0 } }));

  protected chooseMaterial(name: string): void {
    const material = this.house.materials().find((m) => m.name === name);
    if (material) this.editor.change((job) => ({ ...job, material }));
  }

  protected chooseMachine(name: string): void {
    const machine = this.house.machines().find((m) => m.name === name);
    if (machine) this.editor.change((job) => ({ ...job, setup: { ...job.setup, machine } }));
  }

  protected material(change: Partial<Material>): string | undefined {
    return this.editor.change((job) => ({ ...job, material: { ...job.material, ...change } }));
  }

  protected machine(change: Partial<Machine>): string | undefined {
    return this.editor.change((job) => ({
      ...job,
      setup: { ...job.setup, machine: { ...job.setup.machine, ...change } },
    }));
  }

  protected post(post: string): void {
    this.editor.change((job) => ({ ...job, setup: { ...job.setup, post } }));
  }

  protected materialAcceptor(key: keyof Material): (value: number | null) => string | undefined {
    return (value) => this.material({ [key]: value ?? 0 });
  }

  protected machineAcceptor(key: keyof Machine): (value: number | null) => string | undefined {
    return (value) => this.machine({ [key]: value ?? 0 });
  }

  protected readLists(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (file) void this.house.openFile(file);
  }
}
