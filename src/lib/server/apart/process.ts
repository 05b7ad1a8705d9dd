import workerpool from 'workerpool';
import { TASKS } from './tasks';

/** The process in which files of others are parsed; ./apart starts and ends it. */
workerpool.worker(TASKS);
