/** What several were not done to, and why. */
export function NotDone({ done, refused }: { done: string; refused: readonly string[] }) {
  if (refused.length === 0) return null;
  return (
    <div role="status" className="card mb-2 p-2 text-[13px]">
      <p>{done} Not so:</p>
      <ul className="list-disc pl-5 text-stop">
        {refused.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}
