import { lookedUp } from "./grade";

/** Colours through a table that the project brings. */
export const table = lookedUp("table");
