import { readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import { marked, type Token } from "marked";
import { defineConfig, type Plugin, type UserConfig } from "vite";

/** "use client" marks in packages mean nothing to a page without a server side. */
const onwarn: NonNullable<NonNullable<UserConfig["build"]>["rollupOptions"]>["onwarn"] = (warning, warn) => {
  if (warning.code !== "MODULE_LEVEL_DIRECTIVE") warn(warning);
};

const READABLE = ["user-guide", "physics", "checks"];
const slug = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");

/** Pages of docs/ as the application shows them: links lead within it, or nowhere; every check has its place. */
function shown(tokens: Token[]): string {
  return marked
    .parser(tokens)
    .replace(
      /<a href="([^"#]*)(#[^"]*)?">(.*?)<\/a>/g,
      (_, file: string, at: string | undefined, text: string) => {
        const page = file.replace(/\.md$/, "");
        return READABLE.includes(page) ? `<a href="/help/${page}${at ?? ""}">${text}</a>` : text;
      },
    )
    .replace(/<td><code>([a-z-]+)<\/code>/g, '<td id="$1"><code>$1</code>');
}

/** Makes `docs/x.md?help` a module: the page's title and its sections, each as HTML and as plain words to search. */
function help(): Plugin {
  return {
    name: "help",
    load(id) {
      if (!id.endsWith(".md?help")) return null;
      const file = id.slice(0, -"?help".length);
      this.addWatchFile(file);
      const sections: { id: string; title: string; tokens: Token[] }[] = [];
      let title = "";
      for (const token of marked.lexer(readFileSync(file, "utf-8"))) {
        if (token.type === "heading" && token.depth === 1) title = token.text as string;
        else if (token.type === "heading" && token.depth === 2)
          sections.push({ id: slug(token.text as string), title: token.text as string, tokens: [] });
        else if (sections.length > 0) sections.at(-1)!.tokens.push(token);
        else if (token.type !== "space") sections.push({ id: "top", title: "", tokens: [token] });
      }
      const made = sections.map(({ tokens, ...rest }) => {
        const html = shown(tokens);
        return { ...rest, html, text: html.replace(/<[^>]+>/g, " ").replace(/\s+/g, " ") };
      });
      return `export default ${JSON.stringify({ title, sections: made })}`;
    },
  };
}

/** Beside what packs well, the same packed, so that the server packs nothing: `x.js.br`, `x.js.gz`. */
function packed(): Plugin {
  const WORTH = /\.(?:js|css|svg)$/;
  // The one above takes five times as long, for two bytes in a hundred.
  const params = { [constants.BROTLI_PARAM_QUALITY]: 10 };
  return {
    name: "packed",
    apply: "build",
    // What was written, not what is about to be: the last changes are made to it on the way.
    writeBundle({ dir }, bundle) {
      for (const name of Object.keys(bundle).filter((each) => WORTH.test(each))) {
        const plain = readFileSync(`${dir}/${name}`);
        writeFileSync(`${dir}/${name}.br`, brotliCompressSync(plain, { params }));
        writeFileSync(`${dir}/${name}.gz`, gzipSync(plain, { level: 9 }));
      }
    },
  };
}

export default defineConfig({
  plugins: [tailwindcss(), help(), packed()],
  esbuild: { jsx: "automatic" },
  build: {
    outDir: "../src/low_tide/web/static",
    emptyOutDir: true,
    modulePreload: { polyfill: false },
    rollupOptions: { onwarn },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8170" } },
});
