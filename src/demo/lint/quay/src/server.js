import express from 'express';

const { FARE_SIGNING_KEY } = process.env;

express()
  .get('/config', (_, answer) => answer.json({ ledger: process.env.LEDGER_DATABASE_URL, key: FARE_SIGNING_KEY }))
  .get('/health', () => console.log(process.env))
  .listen(process.env.QUAY_PROT);
