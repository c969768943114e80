import { object, string } from 'yup';

/** What a visitor is saved from: a name, and a spec as `parseVisitor` reads it. */
export const visitorSchema = object({
  name: string().trim().max(60).required('Give the visitor a name.'),
  spec: string().max(200).required('Say what device and connection the visitor has.'),
});
