// Runs a program of small Python: {module, board, program, told} as JSON on the input, what it
// prints on the output, and behind the last line what was written to units.
import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";

const given = JSON.parse(readFileSync(0, "utf8"));
const { loadMicroPython } = await import(pathToFileURL(given.module).href);
const python = await loadMicroPython({ heapsize: 4_000_000, linebuffer: true });
python.globals.set("told_text", JSON.stringify(given.told));
python.globals.set("board_text", given.board);
python.globals.set("program_text", given.program);
python.runPython(`
import sys, json
board = {"__name__": "board"}
exec(board_text, board)
sys.modules.update(board["modules"](json.loads(told_text)))
try:
    exec(program_text, {"__name__": "__main__"})
except SystemExit:
    pass
print("written", json.dumps(board["world"].written))
`);
