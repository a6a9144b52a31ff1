/// <reference lib="webworker" />
import { expose } from 'comlink';
import { Planner } from './planner';

expose(new Planner());
