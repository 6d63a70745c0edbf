/** Taking rows out as files: loaded with the first table that offers it. */
export { TakeOutLine } from './take-out-line.tsx';
