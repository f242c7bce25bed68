// Plays case tables: what a phone was given, what was then recorded on it, and what the server says of each. Prints where the two differ.
import { readFileSync } from "node:fs";

import { Gates } from "../../src/gumboot/web/static/js/gates.js";

const told = { compared: 0, unsure: 0, states: 0, unsure_states: 0, differ: [] };

function compareStates(gates, move, name) {
  for (const [id, state] of Object.entries(move.states)) {
    const here = gates.state(id, move.at);
    told.states += 1;
    if (here === "unsure") told.unsure_states += 1;
    else if (here !== state) told.differ.push(`${name}: after ${move.act}, ${id} is ${here} here and ${state} there`);
  }
}

function compareGates(gates, move, name) {
  const { gate, by } = gates.gate(move.act, move.at);
  if (!move.gate) return;
  told.compared += 1;
  if (gate === "unsure") told.unsure += 1;
  else if (gate !== move.gate) told.differ.push(`${name}: ${move.act} is ${gate} (${by}) here and ${move.gate} there`);
}

for (const table of JSON.parse(readFileSync(process.argv[2], "utf8"))) {
  const gates = new Gates(table.carried);
  for (const move of table.moves) {
    compareGates(gates, move, table.name);
    if (move.kept) gates.add(move);
    compareStates(gates, move, table.name);
  }
}
process.stdout.write(JSON.stringify(told));
