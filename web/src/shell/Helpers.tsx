import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { momentOf } from "../parts/when";

/** How helpers come in, and who is in. */
export function Helpers() {
  const queries = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ["door"],
    queryFn: () => answer(api.GET("/api/door")),
    refetchInterval: 5000,
  });
  const [wrong, setWrong] = useState<string | null>(null);
  const sendOut = async (number: number) => {
    setWrong(null);
    try {
      const { error: refused } = await api.DELETE("/api/people/{number}", { params: { path: { number } } });
      if (refused) throw new Error((refused as { message?: string }).message ?? "That did not work.");
    } catch (trouble) {
      setWrong((trouble as Error).message);
    }
    void queries.invalidateQueries({ queryKey: ["door"] });
  };
  if (error) return <p className="mt-3 text-oxide text-xs">{(error as Error).message}</p>;
  if (!data) return <p className="mt-3 text-mute text-xs">Looking…</p>;
  if (!data.shared)
    return (
      <p className="mt-3 text-[13px]">
        The program is open to this machine alone. To let phones in, stop it and start it with <code>--share</code>, on
        the club’s own network only.
      </p>
    );
  return (
    <div className="mt-3 text-[13px]">
      <div className="flex gap-4">
        {data.picture ? (
          <img
            className="h-36 w-36 rounded-lg bg-white"
            alt="The address, for a phone’s camera"
            src={`data:image/svg+xml,${encodeURIComponent(data.picture)}`}
          />
        ) : null}
        <div className="min-w-0 flex-1">
          <p className="text-mute">Point a phone’s camera here, or type</p>
          <p className="break-all font-semibold">{data.address}</p>
          <p className="mt-2 text-mute">Helpers say</p>
          <p className="font-semibold text-[15px]">{data.phrase}</p>
          <p className="mt-2 text-mute text-xs">
            {data.encrypted
              ? "The line is encrypted with the club’s own certificate."
              : "The line is not encrypted: use it on the club’s own network only."}
          </p>
        </div>
      </div>
      <h3 className="mt-4 font-bold">Who is in</h3>
      {data.people.length ? (
        <ul className="mt-1">
          {data.people.map((p) => (
            <li key={p.number} className="flex items-center gap-2 border-line border-t py-1.5">
              <span className="min-w-0 flex-1">
                <span className="block truncate">
                  {p.name}, {p.role}
                </span>
                <span className="text-mute text-xs">
                  came in {momentOf(p.made)}, last seen {momentOf(p.seen)}
                </span>
              </span>
              <button
                type="button"
                className="btn"
                aria-label={`Send ${p.name} out`}
                onClick={() => void sendOut(p.number)}
              >
                Send out
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <p className="mt-1 text-mute">Nobody yet. Who came in stays in, also when the program is started again.</p>
      )}
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}
