import { publishable, secret, type TokenShape } from './shape.js';

/** Tokens of public services by the forms that the services document. One line per shape. */
export const serviceShapes: readonly TokenShape[] = [
  // Payment and shops.
  secret(
    'a payment service secret key',
    'sk_live_ sk_test_ rk_live_ rk_test_',
    /^[sr]k_(?:live|test)_[A-Za-z0-9]{16,}$/,
  ),
  publishable('a payment service publishable key', 'pk_live_ pk_test_', /^pk_(?:live|test)_[A-Za-z0-9]{16,}$/),
  secret('a payment service webhook secret', 'whsec_', /^whsec_[A-Za-z0-9+/=]{16,}$/),
  secret('a payment service access token', 'sq0atp- EAAAE EAAAl', /^(?:sq0atp-[\w-]{22}|EAAA[El][\w-]{56,60})$/),
  secret('a payment service application secret', 'sq0csp-', /^sq0csp-[\w-]{43}$/),
  publishable('a payment service application id', 'sq0idp-', /^sq0idp-[\w-]{22}$/),
  secret(
    'a payment gateway access token',
    'access_token$',
    /^access_token\$(?:production|sandbox)\$[0-9a-z]{16}\$[0-9a-f]{32}$/,
  ),
  secret('a payment service secret key', 'FLWSECK_', /^FLWSECK_(?:TEST|LIVE)?-?[A-Za-z0-9]{12,}(?:-X)?$/),
  publishable('a payment service public key', 'FLWPUBK_', /^FLWPUBK_(?:TEST|LIVE)?-?[A-Za-z0-9]{12,}(?:-X)?$/),
  publishable('a payment service key id', 'rzp_live_ rzp_test_', /^rzp_(?:live|test)_[A-Za-z0-9]{14}$/),
  secret(
    'a bank data access token',
    'access-production- access-development- access-sandbox-',
    /^access-(?:production|development|sandbox)-[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/,
  ),
  secret('a shop platform token', 'shpat_ shpca_ shppa_ shpss_', /^shp(?:at|ca|pa|ss)_[0-9a-fA-F]{32}$/),
  secret('a shipping service key', 'shippo_live_ shippo_test_', /^shippo_(?:live|test)_[0-9a-f]{40}$/),
  secret('a shipping service key', 'EZAK EZTK', /^EZ[AT]K[A-Za-z0-9]{54}$/),
  secret('a travel service token', 'duffel_live_ duffel_test_', /^duffel_(?:live|test)_[\w-]{43}$/),
  // Code, packages and pipelines.
  secret(
    'a code host access token',
    'ghp_ gho_ ghu_ ghs_ ghr_ github_pat_',
    /^(?:gh[pousr]_[A-Za-z0-9]{36,251}|github_pat_\w{60,})$/,
  ),
  secret(
    'a code host access token',
    'glpat- gldt- glrt- glptt- glft- glsoat- glcbt- glimt- glagent-',
    /^gl(?:pat|dt|rt|ptt|ft|soat|cbt|imt|agent)-[\w.-]{20,}$/,
  ),
  secret('a code host app password', 'ATBB', /^ATBB[A-Za-z0-9]{32}$/),
  secret('an issue tracker token', 'ATATT3 ATCTT3', /^AT[AC]TT3[\w=-]{100,}$/),
  secret('an issue tracker key', 'lin_api_ lin_oauth_', /^lin_(?:api|oauth)_[A-Za-z0-9]{32,}$/),
  secret('a package registry token', 'npm_', /^npm_[A-Za-z0-9]{36}$/),
  secret('a package index token', 'pypi-AgE', /^pypi-AgE[\w-]{50,}$/),
  secret('a package registry key', 'rubygems_', /^rubygems_[0-9a-f]{48}$/),
  secret('a package registry token', 'CLOJARS_', /^CLOJARS_[0-9a-f]{60}$/),
  secret(
    'a package registry key',
    'oy2a oy2b oy2c oy2d oy2e oy2f oy2g oy2h oy2i oy2j oy2k oy2l oy2m oy2n oy2o oy2p',
    /^oy2[a-p][a-z0-9]{42}$/,
  ),
  secret('a container registry token', 'dckr_pat_ dckr_oat_', /^dckr_[po]at_[\w-]{27,}$/),
  secret('an artifact repository key', 'AKCp', /^AKCp[A-Za-z0-9]{60,}$/),
  secret('a pipeline token', 'CCIPAT_', /^CCIPAT_[A-Za-z0-9]{22}_[0-9a-f]{40}$/),
  secret('a pipeline token', 'bkua_', /^bkua_[0-9a-f]{40}$/),
  secret('a code quality token', 'sqp_ squ_ sqa_', /^sq[pua]_[0-9a-f]{40}$/),
  secret('an infrastructure service token', 'pul-', /^pul-[0-9a-f]{40}$/),
  secret('an API client key', 'PMAK-', /^PMAK-[0-9a-f]{24}-[0-9a-f]{34}$/),
  // Clouds and hosts.
  secret('a cloud access key id', 'AKIA ASIA', /^A[KS]IA[A-Z2-7]{16}$/),
  publishable('a cloud browser key', 'AIza', /^AIza[\w-]{35}$/),
  secret('a cloud OAuth client secret', 'GOCSPX-', /^GOCSPX-[\w-]{28}$/),
  secret('a cloud access token', 'ya29.', /^ya29\.[\w-]{40,}$/),
  secret('a push message server key', ':APA91b', /^[\w-]{7,22}:APA91b[\w-]{120,}$/, { before: /[\w-]{7,22}$/ }),
  secret('a cloud storage key', 'AccountKey=', /^AccountKey=[A-Za-z0-9+/]{86}==$/),
  secret('a cloud message service key', 'SharedAccessKey=', /^SharedAccessKey=[A-Za-z0-9+/]{43}=$/),
  secret('a cloud host token', 'dop_v1_ doo_v1_ dor_v1_', /^do[opr]_v1_[0-9a-f]{64}$/),
  secret('a cloud host key', 'HRKU-', /^HRKU-[\w-]{36,}$/),
  secret('a site host token', 'nfp_', /^nfp_[A-Za-z0-9]{36}$/),
  secret('an app host token', 'fm2_', /^fm2_[A-Za-z0-9+/=_-]{40,}$/),
  secret('an origin certificate key', 'v1.0-', /^v1\.0-[0-9a-f]{24}-[0-9a-f]{146}$/),
  secret('a database host token', 'pscale_tkn_ pscale_pw_ pscale_oauth_', /^pscale_(?:tkn|pw|oauth)_[\w.=-]{32,}$/),
  secret('a backend service access token', 'sbp_', /^sbp_[0-9a-f]{40}$/),
  secret('a backend service secret key', 'sb_secret_', /^sb_secret_[\w-]{20,}$/),
  publishable('a backend service publishable key', 'sb_publishable_', /^sb_publishable_[\w-]{20,}$/),
  secret('a data platform token', 'dapi', /^dapi[0-9a-f]{32}(?:-\d)?$/),
  // Models.
  secret('a model service key', 'sk- sk-proj- sk-ant-', /^sk-(?:proj-|ant-|svcacct-|admin-)?[\w-]{32,}$/, {
    accepts: hasDigits,
  }),
  secret('a model hub token', 'hf_', /^hf_[A-Za-z]{34}$/),
  secret('a model service token', 'r8_', /^r8_[A-Za-z0-9]{37}$/),
  secret('a model service key', 'gsk_', /^gsk_[A-Za-z0-9]{52}$/),
  secret('a model service key', 'xai- pplx-', /^(?:xai|pplx)-[A-Za-z0-9]{48,}$/),
  // Messages.
  secret('a chat service token', 'xoxa- xoxb- xoxe- xoxo- xoxp- xoxr- xoxs-', /^xox[abeoprs]-[\w-]{20,}$/, {
    accepts: hasDigits,
  }),
  secret('a chat service app token', 'xapp-', /^xapp-\d-[A-Z0-9]+-\d+-[0-9a-f]{32,}$/),
  secret('a chat webhook', 'hooks.slack.com/services/', /^hooks\.slack\.com\/services\/T\w{8,12}\/B\w{8,12}\/\w{24}$/),
  secret(
    'a chat webhook',
    'discord.com/api/webhooks/ discordapp.com/api/webhooks/',
    /^discord(?:app)?\.com\/api\/webhooks\/\d{17,20}\/[\w-]{60,}$/,
  ),
  secret('a chat bot token', ':AAE :AAF :AAG :AAH', /^\d{8,10}:AA[E-H][\w-]{32}$/, { before: /\d{8,10}$/ }),
  secret('a mail service key', 'SG.', /^SG\.[\w-]{20,}\.[\w-]{30,}$/),
  secret('a mail service key', 'xkeysib-', /^xkeysib-[0-9a-f]{64}-[A-Za-z0-9]{16}$/),
  secret('a mail service key', 're_', /^re_[A-Za-z0-9]{8}_[A-Za-z0-9]{24}$/, { accepts: hasDigits }),
  secret('a mailing list key', '-us', /^[0-9a-f]{32}-us\d{1,2}$/, { before: /[0-9a-f]{32}$/ }),
  secret(
    'a customer data token',
    'pat-na1- pat-na2- pat-eu1-',
    /^pat-(?:na[12]|eu1)-[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/,
  ),
  // Content, maps, forms and design.
  secret('a map service secret token', 'sk.eyJ', /^sk\.eyJ[\w-]+\.[\w-]{20,}$/),
  publishable('a map service public token', 'pk.eyJ', /^pk\.eyJ[\w-]+\.[\w-]{20,}$/),
  secret('a content service token', 'CFPAT-', /^CFPAT-[\w-]{43}$/),
  secret('a notes service token', 'ntn_', /^ntn_\d{11}[A-Za-z0-9]{35}$/),
  secret('a notes service secret', 'secret_', /^secret_[A-Za-z0-9]{43}$/, { accepts: hasDigits }),
  secret('a table service token', 'pat', /^pat[A-Za-z0-9]{14}\.[0-9a-f]{64}$/),
  secret('a form service token', 'tfp_', /^tfp_[\w-]{40,}$/),
  secret('a design service token', 'figd_ figu_', /^fig[du]_[\w-]{40,}$/),
  // Monitoring and product analytics.
  secret('an error tracker token', 'sntrys_ sntryu_', /^sntry[su]_[\w+/=-]{40,}$/),
  secret('a dashboard service token', 'glc_ glsa_', /^(?:glc_[A-Za-z0-9+/=]{40,}|glsa_[A-Za-z0-9]{32}_[0-9a-f]{8})$/),
  secret('a monitoring service key', 'NRAK- NRII-', /^NR(?:AK|II)-[\w-]{27,32}$/),
  publishable('a monitoring service browser key', 'NRJS-', /^NRJS-[0-9a-f]{19}$/),
  publishable('a product analytics project key', 'phc_', /^phc_[A-Za-z0-9]{32,}$/),
  secret('a product analytics personal key', 'phx_', /^phx_[A-Za-z0-9]{32,}$/),
  secret(
    'a feature flag service key',
    'sdk- api-',
    /^(?:sdk|api)-[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}$/,
  ),
  publishable(
    'a feature flag mobile key',
    'mob-',
    /^mob-[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}$/,
  ),
];

/** Identifiers and words joined by dashes have no digits, or few. */
function hasDigits(token: string): boolean {
  return (token.match(/\d/g)?.length ?? 0) >= 3;
}
