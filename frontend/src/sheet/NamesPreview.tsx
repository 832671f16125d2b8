/* The names that files are going to have, looked at before they are made. */
import { Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { t } from "../shared/words";
import { client, taken, type ExportOptions } from "../api/client";
import { complete } from "../shared/FileForm";

const SHOWN = 3;

export function NamesPreview({ ids, options }: { ids: number[]; options: ExportOptions }) {
  const { pattern, format, size } = options;
  const found = useQuery({
    queryKey: ["names", ids, pattern, format, size],
    enabled: complete(options),
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(client.POST("/api/exports/names", { body: { ...options, picture_ids: ids } })),
  });
  if (found.error)
    return (
      <Text role="alert" color="brick" mt="6px">
        {found.error.message}
      </Text>
    );
  const names = found.data?.names ?? [];
  return (
    <Text as="div" mt="6px" fontSize="12px" color="inkSoft" role="status" aria-label={t("Names")}>
      {names.slice(0, SHOWN).map(({ picture_id: id, name }) => (
        <Text key={id} fontFamily="mono" truncate title={name}>
          {name}
        </Text>
      ))}
      {names.length > SHOWN && `${t("and {more} more.", { more: names.length - SHOWN })} `}
      {found.data?.words && (
        <Text as="span" color="brick">
          {found.data.words}
        </Text>
      )}
    </Text>
  );
}
