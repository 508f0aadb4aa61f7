/** Puts a text on the clipboard, also where the browser keeps its own way to it from the page (plain HTTP on a network). */
export async function copyText(text: string): Promise<void> {
  if (navigator.clipboard) return navigator.clipboard.writeText(text);
  const field = document.createElement("textarea");
  field.value = text;
  field.style.position = "fixed";
  field.style.opacity = "0";
  document.body.append(field);
  field.select();
  // The old way, which every browser still has for this case alone.
  const done = document.execCommand("copy");
  field.remove();
  if (!done) throw new Error("The text could not be copied.");
}
