import express from 'express';

const { FARE_SIGNING_KEY, PAYMENT_SECRET_KEY, QUAY_ADMIN_PASSWORD } = process.env;
const seats = Number(process.env.SEATS_PER_FERRY);

express()
  .get('/fares', (_, answer) => answer.json({ seats, signed: Boolean(FARE_SIGNING_KEY && PAYMENT_SECRET_KEY) }))
  .post('/admin', (_, answer) => answer.sendStatus(QUAY_ADMIN_PASSWORD ? 401 : 500))
  .listen(process.env.QUAY_PORT ?? 4180);

export const ledger = process.env.LEDGER_DATABASE_URL;
export const reports = process.env.LEDGER_REPORT_TO;
