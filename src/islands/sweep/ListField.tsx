import { useMemo, useState } from 'react';
import { readUrlList, urlsOf } from '../../core/site/urlList';
import { count } from '../ui/format';
import { Field } from '../ui/Fields';

const MAX_FILE = 20 * 1024 * 1024;

/** A pasted or uploaded list of addresses; of a table the column is picked. */
export function ListField(props: { home: string; value: readonly string[]; onChange: (urls: string[]) => void }) {
  const [text, setText] = useState(props.value.join('\n'));
  const [column, setColumn] = useState<number>();
  const [fault, setFault] = useState<string>();
  const list = useMemo(() => readUrlList(text), [text]);
  const picked = column ?? list.column;
  const found = useMemo(() => urlsOf(list, picked, props.home), [list, picked, props.home]);
  const take = (next: string, at?: number) => {
    const read = readUrlList(next);
    setText(next);
    setColumn(at);
    props.onChange(urlsOf(read, at ?? read.column, props.home).urls);
  };
  const upload = async (file: File | undefined) => {
    if (!file) return;
    if (file.size > MAX_FILE) {
      setFault(`${file.name} is larger than 20 MB: split it.`);
      return;
    }
    const content = await file.text();
    if (content.includes('\u0000')) {
      setFault(`${file.name} is not a text file. Save it as txt or csv.`);
      return;
    }
    setFault(undefined);
    take(content);
  };
  return (
    <Field
      label="List of addresses"
      help={
        <>
          One address a line, or a table (csv) with a column of addresses.{' '}
          <label className="link">
            Choose a txt or csv file
            <input
              type="file"
              className="unseen"
              accept=".txt,.csv,.tsv,text/plain,text/csv"
              onChange={(e) => {
                void upload(e.target.files?.[0]);
                e.target.value = '';
              }}
            />
          </label>
          {fault && (
            <span className="cost" role="alert">
              {' '}
              {fault}
            </span>
          )}
        </>
      }
    >
      {(id) => (
        <>
          <textarea
            id={id}
            className="mono"
            rows={4}
            value={text}
            spellCheck={false}
            placeholder="https://www.fernhollow.example/visit/"
            onChange={(e) => take(e.target.value)}
          />
          {list.columns.length > 1 && (
            <p className="tools">
              <label>
                Column with the addresses{' '}
                <select value={picked} onChange={(e) => take(text, Number(e.target.value))}>
                  {list.columns.map((name, i) => (
                    <option key={i} value={i}>
                      {name}
                    </option>
                  ))}
                </select>
              </label>
            </p>
          )}
          {text.trim() !== '' && (
            <p className="soft small" role="status">
              {count(found.urls.length, 'address', 'addresses')}
              {found.notAddresses > 0 && `, ${count(found.notAddresses, 'line')} without an address`}
              {found.urls[0] && `; the first is ${found.urls[0]}`}
            </p>
          )}
        </>
      )}
    </Field>
  );
}
