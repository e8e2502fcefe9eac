/** The same said in another way: a rule as single lines, and single lines left to a rule. */
import { Button } from "@mui/material";
import { BUSY, off } from "../../shell/off";
import { count, many } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useRulePairs, useSpelt } from "./queries";

export function Spelt({ number, expected, onDone }: { number: number; expected: number; onDone: () => void }) {
  const pairs = useRulePairs(number);
  const spelt = useSpelt();
  const same = pairs.data?.length ?? 0;
  return (
    <div className="form" aria-label="Said in another way" role="group">
      <div className="acts">
        <Button
          variant="outlined"
          onClick={() => spelt.mutate({ number, how: "lines" }, { onSuccess: onDone })}
          {...off([!expected, "It answers no old address."], [spelt.isPending, BUSY])}
          title="A pair for every old address that it answers, in its place"
        >
          As {many(expected, "single line")}
        </Button>
        <Button
          variant="outlined"
          onClick={() => spelt.mutate({ number, how: "gather" })}
          {...off([!same, "No pair says what it says."], [spelt.isPending, BUSY])}
          title={pairs.data?.slice(0, 12).join("\n")}
        >
          Leave {many(same, "pair")} to it
        </Button>
        {spelt.data && <span role="status">{spelt.data.text}. Z takes it back.</span>}
      </div>
      <Told error={spelt.error ?? pairs.error} />
      {same > 0 && (
        <p className="soft" style={{ margin: 0 }}>
          {count(same)} of the pairs {same === 1 ? "says" : "say"} the same as this rule.
        </p>
      )}
    </div>
  );
}
