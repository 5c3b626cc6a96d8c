/** Take one of several ways that were tried; of the one the plan has, it says so. */
export function Take({
  label,
  taken,
  onTake,
}: {
  label: string;
  taken: boolean;
  onTake: () => void;
}) {
  return taken ? (
    <span className="font-normal text-ink-3">this plan</span>
  ) : (
    <button className="quiet" aria-label={label} onClick={onTake}>
      take
    </button>
  );
}
