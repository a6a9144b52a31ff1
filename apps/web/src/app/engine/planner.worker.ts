/// <reference lib="webworker" />
import { expose } from 'comlink';
import { holdLife } from './alive';
import { keptMeshes } from './meshCache';
import { pathCache } from './pathCache';
import { Planner } from './planner';
import { readStepFile, stopStepReader } from './stepReader';
import { keepErrorsWhole } from './wire';

declare const self: DedicatedWorkerGlobalScope;

keepErrorsWhole();
expose(new Planner({ paths: pathCache, meshes: keptMeshes, readStep: readStepFile, stopStep: stopStepReader }));
holdLife(self);
