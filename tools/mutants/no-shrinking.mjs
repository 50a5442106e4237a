// That a property fails is enough to notice a mutant: the smallest example of it would take most of the time.
// biome-ignore lint/correctness/noUndeclaredDependencies: it configures the package that the tests use
import fc from 'fast-check';

fc.configureGlobal({ endOnFailure: true });
