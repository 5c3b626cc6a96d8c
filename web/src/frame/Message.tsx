/** One calm page for "loading", "nothing here" and "something is wrong". */
export function Message({
  title,
  text,
  again,
}: {
  title: string;
  text: string;
  again?: () => void;
}) {
  return (
    <main
      className="flex h-full flex-col items-center justify-center gap-2 p-8 text-center"
      role="status"
    >
      <h1 className="text-xl font-semibold">{title}</h1>
      <p className="max-w-prose text-ink-2">{text}</p>
      {again && (
        <button className="quiet" onClick={again}>
          Try again
        </button>
      )}
    </main>
  );
}
