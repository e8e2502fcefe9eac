/** The name of a kind that is being made. */
import { TextField } from "@mui/material";

interface Props {
  label: string;
  problem: string;
  onSet: (label: string) => void;
}

export function KindName({ label, problem, onSet }: Props) {
  return (
    <TextField
      label="Name of the kind"
      value={label}
      autoFocus
      onFocus={(e) => e.target.select()}
      onChange={(e) => onSet(e.target.value)}
      error={!!problem}
      helperText={problem || undefined}
    />
  );
}
