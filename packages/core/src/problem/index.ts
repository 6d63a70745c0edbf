/** Problems: what is wrong with a request, where, and how to mend it. */
export { catalogue, type ProblemCode, type ProblemFacts } from './catalogue.ts';
export { problemDocumentation } from './documentation.ts';
export { problem, inParameter, type Problem } from './problem.ts';
export { nearest } from './nearest.ts';
