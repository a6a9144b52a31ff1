import { Fingerprint } from '../base/fingerprint';
import type { TriangleMesh } from './mesh';

/** Tells meshes apart by what they hold. */
export function meshFingerprint(mesh: TriangleMesh): string {
  return new Fingerprint().add(mesh.positions).add(mesh.indices).toString();
}
