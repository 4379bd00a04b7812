import { useInfiniteQuery, type QueryKey } from "@tanstack/react-query";

interface Page<Row> {
  count: number;
  items: Row[];
}

/** A list that comes in pages: its rows so far, how many there are in all, and how to get more of them. */
export function usePages<Row>(
  queryKey: QueryKey,
  ask: (offset: number, signal: AbortSignal) => Promise<Page<Row>>,
) {
  const pages = useInfiniteQuery({
    queryKey,
    queryFn: ({ pageParam, signal }) => ask(pageParam, signal),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const offset = all.reduce((sum, page) => sum + page.items.length, 0);
      return last.items.length > 0 && offset < last.count ? offset : undefined;
    },
  });
  return {
    rows: pages.data?.pages.flatMap((page) => page.items),
    count: pages.data?.pages.at(-1)?.count ?? 0,
    more: pages.hasNextPage ? () => void pages.fetchNextPage() : null,
    error: pages.error,
    again: () => void pages.refetch(),
  };
}
