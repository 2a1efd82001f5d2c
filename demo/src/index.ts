export const demoSignIns: { email: string; role: string; password: string }[] = [];
export async function makeDemo(): Promise<string> {
  return '';
}
