import { type ClientLoaderFunctionArgs, redirect } from 'react-router';

export function clientLoader({ params }: ClientLoaderFunctionArgs) {
  return redirect(`/${params.install}/survey`);
}

export default function ToSurvey() {
  return null;
}
