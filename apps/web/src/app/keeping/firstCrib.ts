import {
  type Crib,
  cribFollowing,
  type CutterKind,
  type Holder,
  holderShape,
  type Machine,
  type Material,
  type Told,
  usualAssembly,
  usualCutter,
} from '@esquisse/core';

/** Cutters that a mould shop has at hand: kind, DC, what is not as usual, and how it is held. All made up. */
const STOCK: readonly [CutterKind, number, Told?, ('slim' | 'stout' | 'collet')?][] = [
  ['face', 50, { ZEFP: 5 }],
  ['bull', 32, { RE: 3, ZEFP: 4 }],
  ['bull', 25, { RE: 2 }],
  ['bull', 20, { RE: 2 }],
  ['bull', 16, { RE: 2 }],
  ['bull', 12, { RE: 1.5 }],
  ['bull', 10, { RE: 1 }],
  ['bull', 8, { RE: 1 }],
  ['bull', 6, { RE: 0.5, LN: 30, DMM: 6, DN: 5.7 }, 'slim'],
  ['bull', 5, { RE: 0.5, LN: 25 }, 'slim'],
  ['bull', 4, { RE: 0.5, LN: 20 }, 'slim'],
  ['high-feed', 20, { RE: 2.5 }],
  ['high-feed', 12, { RE: 1.5 }],
  ['high-feed', 8, { RE: 1 }, 'slim'],
  ['ball', 12],
  ['ball', 10],
  ['ball', 8],
  ['ball', 6, { LN: 30, DN: 5.6 }, 'slim'],
  ['ball', 6, { LN: 50, DN: 5.6, OAL: 110 }, 'slim'],
  ['ball', 5, { LN: 30 }, 'slim'],
  ['ball', 4, { LN: 20 }, 'slim'],
  ['ball', 4, { LN: 40 }, 'slim'],
  ['ball', 3, { LN: 15 }, 'slim'],
  ['ball', 3, { LN: 30 }, 'slim'],
  ['ball', 2, { LN: 10 }, 'slim'],
  ['ball', 2, { LN: 20, DN: 1.9 }, 'slim'],
  ['ball', 1.5, { LN: 12 }, 'slim'],
  ['ball', 1, { LN: 6 }, 'slim'],
  ['ball', 1, { LN: 12, DN: 0.95 }, 'slim'],
  ['tapered', 6, { RE: 1, SIG: 10, APMX: 25, DMM: 6 }, 'slim'],
  ['tapered', 6, { RE: 0.5, SIG: 6, APMX: 30, DMM: 6 }, 'slim'],
  ['flat', 16],
  ['flat', 10],
  ['flat', 6, {}, 'slim'],
  ['flat', 4, { LN: 16 }, 'slim'],
  ['spot', 10, {}, 'collet'],
  ['drill', 4.2, {}, 'collet'],
  ['drill', 5, {}, 'collet'],
  ['drill', 6.8, {}, 'collet'],
  ['drill', 8.5, {}, 'collet'],
  ['drill', 10, {}, 'collet'],
  ['tap', 6, { APMX: 15 }, 'collet'],
  ['reamer', 8, { APMX: 20 }, 'collet'],
  ['chamfer', 10, {}, 'collet'],
  ['drill', 3.3, {}, 'collet'],
  ['drill', 6.6, {}, 'collet'],
  ['drill', 7.8, {}, 'collet'],
  ['drill', 9.8, {}, 'collet'],
  ['tap', 4, { APMX: 12 }, 'collet'],
  ['tap', 5, { APMX: 14 }, 'collet'],
  ['tap', 8, { APMX: 18 }, 'collet'],
  ['tap', 10, { APMX: 20 }, 'collet'],
  ['reamer', 10, { APMX: 22 }, 'collet'],
];
/** Index of the description of a sound machine. */
const SOUND = 1;

/** The crib that a shop begins with, its speeds for a material on a machine. */
export function firstCrib(material: Material, machine: Machine): Crib {
  const crib: Crib = {
    cutters: [],
    holders: [],
    extensions: [
      {
        id: 'e1',
        name: 'Shrink-fit extension 6 to 12',
        DCONWS: 6,
        clampFrom: null,
        DCONMS: 12,
        stack: [{ bottomDiameter: 10, topDiameter: 12, length: 60 }],
      },
      {
        id: 'e2',
        name: 'Shrink-fit extension 10 to 20',
        DCONWS: 10,
        clampFrom: null,
        DCONMS: 20,
        stack: [{ bottomDiameter: 16, topDiameter: 20, length: 80 }],
      },
    ],
    assemblies: [],
  };
  STOCK.forEach(([kind, DC, told = {}, held = 'stout'], k) => {
    const cutter = { ...usualCutter(kind, DC, told), id: `c${k + 1}` };
    const holderId = holderFor(crib, kind === 'face' ? 'face' : held, cutter.DMM);
    crib.cutters.push(cutter);
    crib.assemblies.push(usualAssembly({ id: `t${k + 1}`, number: k + 1, cutterId: cutter.id, holderId }, cutter));
  });
  return cribFollowing(crib, { material, machine, stiffness: SOUND });
}

/** A holder for a shank, made up when there is none yet. */
function holderFor(crib: Crib, held: 'slim' | 'stout' | 'collet' | 'face', DMM: number): string {
  const shape =
    held === 'face'
      ? holderShape('face-mill arbor', DMM)
      : held === 'collet'
        ? holderShape('collet', DMM)
        : held === 'slim'
          ? slim(DMM)
          : holderShape('shrink-fit', DMM);
  const known = crib.holders.find((h) => h.name === shape.name);
  if (known) return known.id;
  const id = `h${crib.holders.length + 1}`;
  crib.holders.push({ ...shape, id });
  return id;
}

/** A slim shrink-fit holder: a wall of 3.5 mm round the shank, for deep and narrow places. */
function slim(DMM: number): Omit<Holder, 'id'> {
  return {
    name: `slim shrink-fit ${DMM}`,
    kind: 'shrink-fit',
    DCONWS: DMM,
    clampFrom: null,
    spindle: 'HSK-A 63, ISO 12164',
    stack: [
      { bottomDiameter: DMM + 7, topDiameter: DMM + 14, length: 50 },
      { bottomDiameter: 30, topDiameter: 44, length: 30 },
      { bottomDiameter: 63, topDiameter: 63, length: 26 },
    ],
  };
}
