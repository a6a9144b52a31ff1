import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { type Job, type Material, POSTS } from '@esquisse/core';
import { House } from '../../keeping/house';
import { ChoiceField, choicesOf } from '../../shared/choiceField';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';
import { type EntryField, HouseEntry } from './houseEntry';
import { Fold } from '../../shared/fold';

const MACHINE_FIELDS: readonly EntryField[] = [
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
  ['toolChange', 'Cutter change', 's'],
  ['runUp', 'Spindle run-up', 's'],
  ['rounding', 'Corners rounded by', 'mm'],
  ['timeFactor', 'Real time over calculated', ''],
];
const MATERIAL_FIELDS: readonly EntryField[] = [
  ['kc11', 'kc1.1', 'N/mm²'],
  ['mc', 'mc', ''],
  ['hardness', 'Hardness', 'HBW'],
  ['density', 'Density', 'kg/dm³'],
];
const GROUPS: Material['group'][] = ['P', 'M', 'K', 'N', 'S', 'H'];

/** Material and machine of the job, taken from the shop's own lists and changed here. */
@Component({
  selector: 'esq-machine-section',
  imports: [ChoiceField, Fold, HouseEntry, MatButtonModule, MatCheckboxModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (job(); as j) {
      <esq-fold name="Material" open [brief]="j.material.name">
        <esq-house-entry
          label="Material"
          [name]="j.material.name"
          [names]="materials()"
          [fields]="materialFields"
          [values]="j.material"
          [accept]="acceptMaterial"
          (chosen)="chooseMaterial($event)"
          (keep)="house.keepMaterial(j.material)"
          (takenOff)="house.dropMaterial(j.material.name)"
        >
          <esq-choice-field
            label="ISO 513 group"
            [value]="j.material.group"
            [options]="groups"
            (chosen)="acceptMaterial({ group: $event })"
          />
          <mat-checkbox [checked]="j.hardSteel" (change)="holdHard($event.checked)"
            >Hold all steps against the rules for hard steel</mat-checkbox
          >
          <div class="row">
            <span>kc1.1, mc</span><span class="number">{{ j.material.kc11 }}, {{ j.material.mc }}</span>
          </div>
        </esq-house-entry>
      </esq-fold>
      <esq-fold name="Machine" open [brief]="j.setup.machine.name">
        <esq-house-entry
          label="Machine"
          [name]="j.setup.machine.name"
          [names]="machines()"
          [fields]="machineFields"
          [values]="j.setup.machine"
          [accept]="acceptMachine"
          (chosen)="chooseMachine($event)"
          (keep)="house.keepMachine(j.setup.machine)"
          (takenOff)="house.dropMachine(j.setup.machine.name)"
        >
          <esq-choice-field label="Post" [value]="j.setup.post" [options]="posts" (chosen)="setup({ post: $event })" />
          <esq-value-field
            label="Crossing height over the block"
            key="safeHeight"
            [value]="j.setup.safeHeight"
            unit="mm"
            [accept]="acceptSafe"
          />
          <esq-value-field
            label="Program number"
            key="programNumber"
            [value]="j.setup.programNumber"
            [optional]="true"
            placeholder="none"
            [accept]="acceptNumber"
          />
        </esq-house-entry>
        <div>
          @if (house.kept()) {
            <span class="pencil" data-testid="house-kept">The lists are kept in this browser.</span>
          }
          <button matButton class="plain" (click)="house.saveFile()">Save the house lists</button>
          <button matButton class="plain" (click)="file.click()">Read house lists …</button>
          <input #file type="file" hidden accept=".json" data-testid="house-file" (change)="readLists($event)" />
        </div>
      </esq-fold>
    }
  `,
})
export class MachineSection {
  private readonly editor = inject(Editor);
  protected readonly house = inject(House);
  protected readonly job = this.editor.job;
  protected readonly groups = choicesOf(GROUPS);
  protected readonly machineFields = MACHINE_FIELDS;
  protected readonly materialFields = MATERIAL_FIELDS;
  protected readonly posts = POSTS.map((p) => ({ value: p.id, label: p.name }));
  protected readonly materials = computed(() => this.house.materials().map((m) => m.name));
  protected readonly machines = computed(() => this.house.machines().map((m) => m.name));

  protected readonly acceptMaterial = (change: Record<string, string | number>): string | undefined =>
    this.editor.change((job) => ({ ...job, material: { ...job.material, ...change } }));

  protected holdHard(hardSteel: boolean): void {
    this.editor.make('piece', (job) => ({ ...job, hardSteel }));
  }

  protected readonly acceptMachine = (change: Record<string, string | number>): string | undefined =>
    this.editor.change((job) => ({
      ...job,
      setup: { ...job.setup, machine: { ...job.setup.machine, ...change } },
    }));

  protected readonly acceptSafe = (value: number | null): string | undefined => this.setup({ safeHeight: value ?? 0 });

  protected readonly acceptNumber = (programNumber: number | null): string | undefined => this.setup({ programNumber });

  protected setup(change: Partial<Job['setup']>): string | undefined {
    return this.editor.change((job) => ({ ...job, setup: { ...job.setup, ...change } }));
  }

  protected chooseMaterial(name: string): void {
    const material = this.house.materials().find((m) => m.name === name);
    if (material) this.editor.make('piece', (job) => ({ ...job, material }));
  }

  protected chooseMachine(name: string): void {
    const machine = this.house.machines().find((m) => m.name === name);
    if (machine) this.setup({ machine });
  }

  protected readLists(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (file) void this.house.openFile(file);
  }
}
