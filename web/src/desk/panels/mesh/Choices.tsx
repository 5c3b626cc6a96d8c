import { useRoom } from "../../state/room";
import { type MeshFigures, withMesh } from "./useMesh";

interface Meaning {
  key: "openings" | "cavities" | "meeting" | "splinters";
  title: string;
  /** The value, and what a maker reads; the first is the normal one. */
  ways: readonly (readonly [string, string])[];
  /** Kinds of faults it is about. */
  of: readonly string[];
}

const MEANINGS: readonly Meaning[] = [
  {
    key: "openings",
    title: "Open shells",
    ways: [
      ["close", "closed"],
      ["drop", "dropped"],
    ],
    of: ["open"],
  },
  {
    key: "cavities",
    title: "Shells inside, facing inwards",
    ways: [
      ["hollow", "cavities"],
      ["solid", "filled"],
    ],
    of: ["cavity"],
  },
  {
    key: "meeting",
    title: "Bodies that meet",
    ways: [
      ["one", "one body"],
      ["apart", "kept apart"],
    ],
    of: ["crossing", "nested"],
  },
  {
    key: "splinters",
    title: "Splinters",
    ways: [
      ["keep", "kept"],
      ["drop", "dropped"],
    ],
    of: ["splinter"],
  },
];

/** What faults with two meanings are taken for; those the file has come first. */
export function Choices({ figures }: { figures: MeshFigures }) {
  const { desk } = useRoom();
  const own = desk.choice.settings.mesh ?? {};
  const kinds: string[] = figures.faults.map((fault) => fault.kind);
  const asked = (meaning: Meaning) => meaning.of.some((kind) => kinds.includes(kind));
  const order = [...MEANINGS].sort((a, b) => Number(asked(b)) - Number(asked(a)));
  return (
    <fieldset>
      <legend className="font-semibold">What they are taken for</legend>
      <div className="mt-1 flex flex-col gap-1">
        {order.map((meaning) => {
          const normal = meaning.ways[0]?.[0] ?? "";
          const said = own[meaning.key];
          const now = typeof said === "string" ? said : normal;
          return (
            <div
              key={meaning.key}
              role="radiogroup"
              aria-label={meaning.title}
              className="flex flex-wrap items-center gap-x-3"
            >
              <span className={asked(meaning) ? "w-48" : "w-48 text-ink-3"}>
                {meaning.title}
                {!asked(meaning) && " (none)"}
              </span>
              {meaning.ways.map(([value, word]) => (
                <label key={value} className="flex items-center gap-1">
                  <input
                    type="radio"
                    className="accent-ink"
                    name={`mesh-${meaning.key}`}
                    checked={now === value}
                    onChange={() =>
                      desk.change(withMesh(desk.choice, meaning.key, value, normal))
                    }
                  />{" "}
                  {word}
                </label>
              ))}
            </div>
          );
        })}
      </div>
    </fieldset>
  );
}
