/** The parts of the bay that need no page: for tests. */
export { Clock } from "./clock";
export * as flow from "./flow";
export { reduce, START } from "../live/reduce";
