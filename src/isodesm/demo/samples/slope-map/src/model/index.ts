export * from './slope';
export { Closure, UnknownSlopeError } from './closure';
