import fc from 'fast-check';

/**
 * Properties are tried on the same cases at every run, so that a run that fails fails again; the proofs try others (`SEED` in
 * the environment), and what they find is kept as an example beside the property.
 */
fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: Number(process.env['SEED'] ?? 1) });
