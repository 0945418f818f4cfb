declare module "@alpinejs/csp" {
  interface Alpine {
    data(name: string, component: (...args: any[]) => object): void;
    raw<T>(value: T): T;
    start(): void;
  }
  const alpine: Alpine;
  export default alpine;
}
