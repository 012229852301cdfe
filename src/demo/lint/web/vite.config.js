export default { build: { sourcemap: Boolean(process.env.SOURCE_MAP_UPLOAD_TOKEN) } };
