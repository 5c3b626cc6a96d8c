/** Rows of one list; beyond them a choice is narrowed by words. */
const MOST = 200;

/** Words that narrow a choice down, where one list does not hold all there is. */
export function Narrow({
  what,
  found,
  search,
  onSearch,
}: {
  /** What is chosen among, as "plans". */
  what: string;
  /** How many there are to choose from. */
  found: number;
  search: string;
  onSearch: (search: string) => void;
}) {
  if (found < MOST && search === "") return null;
  return (
    <input
      type="search"
      className="field w-32"
      aria-label={`Narrow down the ${what}`}
      placeholder="words of its name"
      value={search}
      onChange={(event) => onSearch(event.target.value)}
    />
  );
}
