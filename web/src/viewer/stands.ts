import * as THREE from "three";
import { keepLatest } from "../ui/latest";
import type { Stand } from "./link";

/** Under what the browser keeps them, for as long as the tab is open. */
const KEY = "ironcaulk stands";
/** So many at most, the latest. */
const MOST = 200;

/** Six numbers each, the latest last. */
let stands: Map<string, readonly number[]> | null = null;

function known(): Map<string, readonly number[]> {
  if (stands) return stands;
  stands = new Map();
  try {
    const told: unknown = JSON.parse(sessionStorage.getItem(KEY) ?? "[]");
    for (const [name, numbers] of told as [string, number[]][]) {
      if (numbers.length === 6 && numbers.every(Number.isFinite)) stands.set(name, numbers);
    }
  } catch {
    // what cannot be read was not ours
    stands.clear();
  }
  return stands;
}

/** Keep where one stands under some names, for who comes back or loads the page again. */
export function keepStand(names: readonly string[], { eye, target }: Stand) {
  const all = known();
  for (const name of names) keepLatest(all, name, [...eye.toArray(), ...target.toArray()], MOST);
  try {
    sessionStorage.setItem(KEY, JSON.stringify([...all]));
  } catch {
    // a browser that keeps nothing; they hold until the page is left
  }
}

/** Where one stood last, under the first of some names that is known. */
export function standOf(names: readonly string[]): Stand | undefined {
  for (const name of names) {
    const numbers = known().get(name);
    if (numbers) {
      return {
        eye: new THREE.Vector3().fromArray(numbers),
        target: new THREE.Vector3().fromArray(numbers, 3),
      };
    }
  }
  return undefined;
}

/** As after loading the page again. */
export function forgetStands() {
  stands = null;
}
