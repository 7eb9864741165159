import { workOn } from './heavy/work-on.js';
import { jobs } from './jobs.js';

workOn(jobs);
