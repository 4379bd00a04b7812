import { useMutation } from "@tanstack/react-query";

import { api, data, type CardItem } from "../../api/client";
import { Button } from "../../ui/Button";

interface Props {
  address: string;
  item: CardItem;
  onRead: (value: number) => void;
}

/** Reads a value from an instrument into the field, where it is looked at before it is taken. */
export function FromInstrument({ address, item, onRead }: Props) {
  const read = useMutation({
    mutationFn: async () => {
      const body = { address, what: item.reading.what };
      return data(await api.POST("/api/v1/instrument-readings", { body }));
    },
    onSuccess: ({ value }) => onRead(Number(value.toPrecision(5))),
  });
  return (
    <>
      <Button className="mt-1 w-28" disabled={read.isPending} onClick={() => read.mutate()}>
        {read.isPending ? "Reading …" : "Read it"}
      </Button>
      {read.error && (
        <p role="alert" className="text-vermilion mt-1 text-sm">
          ◆ {read.error.message}
        </p>
      )}
    </>
  );
}
