/** The benchmarks, each a ratio to the same work done by hand in the same run. */
process.stdout.write('There is no benchmark yet.\n');
