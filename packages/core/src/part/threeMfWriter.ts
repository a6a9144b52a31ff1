import { strToU8, zipSync } from 'fflate';
import { weld } from '../geometry/mesh';

const TYPES = `<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>`;
const RELATIONS = `<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>`;

/** Writes a triangle soup (nine coordinates a triangle, mm) as a 3MF package (core specification 1.3) of one object. */
export function writeThreeMf(soup: ArrayLike<number>): Uint8Array {
  const { positions: p, indices } = weld(soup).mesh;
  const parts = [
    `<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices>`,
  ];
  const figure = (value: number): string => String(Math.round(value * 1e6) / 1e6);
  for (let v = 0; v < p.length; v += 3)
    parts.push(`<vertex x="${figure(p[v]!)}" y="${figure(p[v + 1]!)}" z="${figure(p[v + 2]!)}"/>`);
  parts.push('</vertices><triangles>');
  for (let t = 0; t < indices.length; t += 3)
    parts.push(`<triangle v1="${indices[t]!}" v2="${indices[t + 1]!}" v3="${indices[t + 2]!}"/>`);
  parts.push('</triangles></mesh></object></resources><build><item objectid="1"/></build></model>');
  return zipSync({
    '[Content_Types].xml': strToU8(TYPES),
    '_rels/.rels': strToU8(RELATIONS),
    '3D/3dmodel.model': strToU8(parts.join('')),
  });
}
