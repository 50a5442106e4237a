export interface MailSettings {
  address: string;
  from: string;
  user?: string;
  timeout?: number;
  authority?: string;
}
