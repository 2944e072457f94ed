/** Under a button that starts work: what it is at, or why it could not be done. */
export function Busy({ busy, doing, error }: { busy: boolean; doing: string | null; error: string | null }) {
  return (
    <>
      {busy ? (
        <p className="mt-2 flex items-center gap-2 text-mute text-xs" role="status">
          <progress className="h-1.5 w-24" /> {doing}
        </p>
      ) : null}
      {error ? (
        <p role="alert" className="mt-2 text-oxide text-xs">
          {error}
        </p>
      ) : null}
    </>
  );
}
