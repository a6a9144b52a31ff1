import { EsquisseError } from '../base/errors';
import type { TriangleMesh } from '../geometry/mesh';
import { meshesByRole } from '../part/bodies';
import { scaledMesh } from '../part/scale';
import type { ReadMesh } from '../part/stl';
import type { Job, ModelFile } from './job';

/**
 * Meshes of a job's files by what they are: the part, the body that is the blank, the fixtures. Bodies of the part's file are
 * scaled as the part is; other files are as they are.
 */
export function meshesOfJob(
  job: Pick<Job, 'part' | 'others'>,
  read: (file: ModelFile) => ReadMesh | undefined,
): { part: TriangleMesh; blank?: TriangleMesh; fixtures: TriangleMesh[] } {
  if (!job.part) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
  const found = (named: ModelFile, what: string): ReadMesh => {
    const mesh = read(named);
    const { file } = named;
    if (!mesh)
      throw new EsquisseError(
        'file-unreadable',
        `${what} "${file}" is not there: bring it in again, or another one.`,
        file,
      );
    return mesh;
  };
  const main = found(job.part, "The part's file");
  const { part, blank, fixture } = meshesByRole(main, job.part.roles);
  if (!part)
    throw new EsquisseError('job-invalid', `No body of "${job.part.file}" is the part; choose at least one.`, 'part');
  const others = job.others
    .filter((o) => o.role !== 'ignored')
    .map((o) => ({ role: o.role, mesh: found(o, `The file of the ${o.role}`).mesh }));
  const { scale } = job.part;
  const own = (mesh: TriangleMesh): TriangleMesh => scaledMesh(mesh, scale);
  return {
    part: own(part),
    blank: blank ? own(blank) : others.find((o) => o.role === 'blank')?.mesh,
    fixtures: [...(fixture ? [own(fixture)] : []), ...others.filter((o) => o.role === 'fixture').map((o) => o.mesh)],
  };
}
