import type { Control } from "./scenes/words";

/** What a control is called where others like it may stand beside it: "Gain, line 3". */
export const called = ({ label, of }: Control) => (of ? `${label}, ${of}` : label);

/** The same within a line that begins with something else: "gain, line 3", but "IR in software, line 3". */
export function calledWithin(control: Control) {
  const name = called(control);
  const [first = ""] = name.split(" ");
  const isShort = first !== first.toLowerCase() && first === first.toUpperCase();
  return isShort ? name : name.charAt(0).toLowerCase() + name.slice(1);
}
