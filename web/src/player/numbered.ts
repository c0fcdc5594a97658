const numbers = new WeakMap<object, number>();
let given = 0;

/** A number that an object keeps, for keys. */
export function numberOf(object: object): number {
  const number = numbers.get(object) ?? ++given;
  numbers.set(object, number);
  return number;
}
