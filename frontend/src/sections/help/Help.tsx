import { useEffect, useState, type MouseEvent } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { TextInput } from "../../parts/controls";
import { NotHere } from "../../parts/states";
import { PAGES, passages, type PageId } from "./pages";

const INK =
  "grid gap-2 text-[14.5px] leading-[1.5] [&_a]:text-deep [&_a]:underline [&_code]:font-mono [&_code]:text-[13px]" +
  " [&_li]:my-0.5 [&_ul]:list-disc [&_ul]:pl-5 [&_table]:w-full [&_td]:border-t [&_td]:border-line [&_td]:py-1" +
  " [&_td]:pr-4 [&_td]:align-top [&_th]:text-left [&_[data-here]]:bg-shoal";

/** The user guide, the physics and the checks, to be read beside the work, also without a network. */
export default function Help() {
  const { page = "user-guide" } = useParams();
  const { hash } = useLocation();
  const go = useNavigate();
  const [words, setWords] = useState("");
  useEffect(() => {
    const at = hash && document.getElementById(decodeURIComponent(hash.slice(1)));
    document.querySelector("[data-here]")?.removeAttribute("data-here");
    if (at) {
      at.setAttribute("data-here", "");
      at.scrollIntoView({ block: "center" });
    }
    if (!at) document.getElementById("help-text")?.scrollTo({ top: 0 });
  }, [page, hash]);
  if (!(page in PAGES)) return <NotHere />;
  const shown = PAGES[page as PageId];
  const found = passages(words);
  // Links of the text lead within the application.
  const follow = (event: MouseEvent) => {
    const to = (event.target as HTMLElement).closest("a")?.getAttribute("href");
    if (!to?.startsWith("/help/")) return;
    event.preventDefault();
    void go(to);
  };
  return (
    <div className="flex h-full min-h-0 flex-col md:flex-row short:block short:overflow-y-auto">
      <nav
        aria-label="Help"
        className="flex max-h-[40vh] shrink-0 flex-col border-line md:max-h-none md:w-[270px] md:border-r short:max-h-none short:w-auto"
      >
        <div className="p-3">
          <TextInput
            aria-label="Search the help"
            placeholder="Search the help …"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
        </div>
        <ul className="min-h-0 flex-1 overflow-y-auto px-3 pb-4 text-[13.5px]">
          {words.trim()
            ? found.map((each) => (
                <li key={each.page + each.id}>
                  <Link
                    className="block rounded px-2 py-1 hover:bg-faint"
                    to={`/help/${each.page}#${each.id}`}
                  >
                    {each.title} <span className="text-[12px] text-ink-2">{each.of}</span>
                  </Link>
                </li>
              ))
            : (Object.keys(PAGES) as PageId[]).map((id) => (
                <li key={id} className="mb-2">
                  <Link
                    className={`block rounded px-2 py-1 font-bold hover:bg-faint ${id === page ? "bg-shoal" : ""}`}
                    aria-current={id === page ? "page" : undefined}
                    to={`/help/${id}`}
                  >
                    {PAGES[id].title}
                  </Link>
                  {id === page && (
                    <ul>
                      {PAGES[id].sections
                        .filter((section) => section.title)
                        .map((section) => (
                          <li key={section.id}>
                            <Link
                              className="block rounded px-2 py-1 pl-5 hover:bg-faint"
                              to={`/help/${id}#${section.id}`}
                            >
                              {section.title}
                            </Link>
                          </li>
                        ))}
                    </ul>
                  )}
                </li>
              ))}
          {words.trim() && found.length === 0 && (
            <li className="px-2 text-ink-2">Nothing has all of these words in it.</li>
          )}
        </ul>
      </nav>
      {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-noninteractive-element-interactions -- links within it are followed, by whatever they were pressed */}
      <article
        id="help-text"
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- text that scrolls is reached by keyboard
        tabIndex={0}
        onClick={follow}
        className="min-h-0 flex-1 overflow-y-auto bg-sheet px-6 py-5"
      >
        <div className="mx-auto max-w-[760px]">
          <h2 className="mb-3 text-[21px] font-bold">{shown.title}</h2>
          {shown.sections.map((section) => (
            <section key={section.id} className="mb-5">
              {section.title && (
                <h3 id={section.id} className="mb-1.5 scroll-mt-3 text-[16px] font-bold">
                  {section.title}
                </h3>
              )}
              {/* From docs/ of this very program, made when it was built. */}
              <div className={INK} dangerouslySetInnerHTML={{ __html: section.html }} />
            </section>
          ))}
        </div>
      </article>
    </div>
  );
}
