/**
 * Every country (ISO 3166-1): code, three-letter code, English name, and its time zones (IANA tz database, zone.tab),
 * the one of most of its people first. A test holds this to the tables as packages ship them.
 */
export const COUNTRY_TABLE = `
AD|AND|Andorra|Europe/Andorra
AE|ARE|United Arab Emirates|Asia/Dubai
AF|AFG|Afghanistan|Asia/Kabul
AG|ATG|Antigua & Barbuda|America/Puerto_Rico America/Antigua
AI|AIA|Anguilla|America/Puerto_Rico America/Anguilla
AL|ALB|Albania|Europe/Tirane
AM|ARM|Armenia|Asia/Yerevan
AO|AGO|Angola|Africa/Lagos Africa/Luanda
AQ|ATA|Antarctica|Antarctica/McMurdo Antarctica/Casey Antarctica/Davis Antarctica/Mawson Antarctica/Palmer Antarctica/Rothera Antarctica/Troll Antarctica/Vostok Pacific/Auckland Pacific/Port_Moresby Asia/Riyadh Asia/Singapore Antarctica/DumontDUrville Antarctica/Syowa
AR|ARG|Argentina|America/Argentina/Buenos_Aires America/Argentina/Cordoba America/Argentina/Salta America/Argentina/Jujuy America/Argentina/Tucuman America/Argentina/Catamarca America/Argentina/La_Rioja America/Argentina/San_Juan America/Argentina/Mendoza America/Argentina/San_Luis America/Argentina/Rio_Gallegos America/Argentina/Ushuaia
AS|ASM|American Samoa|Pacific/Pago_Pago
AT|AUT|Austria|Europe/Vienna
AU|AUS|Australia|Australia/Sydney Australia/Lord_Howe Antarctica/Macquarie Australia/Hobart Australia/Melbourne Australia/Broken_Hill Australia/Brisbane Australia/Lindeman Australia/Adelaide Australia/Darwin Australia/Perth Australia/Eucla Asia/Tokyo
AW|ABW|Aruba|America/Puerto_Rico America/Aruba
AX|ALA|Åland Islands|Europe/Helsinki Europe/Mariehamn
AZ|AZE|Azerbaijan|Asia/Baku
BA|BIH|Bosnia & Herzegovina|Europe/Belgrade Europe/Sarajevo
BB|BRB|Barbados|America/Barbados
BD|BGD|Bangladesh|Asia/Dhaka
BE|BEL|Belgium|Europe/Brussels
BF|BFA|Burkina Faso|Africa/Abidjan Africa/Ouagadougou
BG|BGR|Bulgaria|Europe/Sofia
BH|BHR|Bahrain|Asia/Qatar Asia/Bahrain
BI|BDI|Burundi|Africa/Maputo Africa/Bujumbura
BJ|BEN|Benin|Africa/Lagos Africa/Porto-Novo
BL|BLM|St. Barthélemy|America/Puerto_Rico America/St_Barthelemy
BM|BMU|Bermuda|Atlantic/Bermuda
BN|BRN|Brunei|Asia/Kuching Asia/Brunei
BO|BOL|Bolivia|America/La_Paz
BQ|BES|Caribbean Netherlands|America/Puerto_Rico America/Kralendijk
BR|BRA|Brazil|America/Sao_Paulo America/Noronha America/Belem America/Fortaleza America/Recife America/Araguaina America/Maceio America/Bahia America/Campo_Grande America/Cuiaba America/Santarem America/Porto_Velho America/Boa_Vista America/Manaus America/Eirunepe America/Rio_Branco
BS|BHS|Bahamas|America/Toronto America/Nassau
BT|BTN|Bhutan|Asia/Thimphu
BV|BVT|Bouvet Island|
BW|BWA|Botswana|Africa/Maputo Africa/Gaborone
BY|BLR|Belarus|Europe/Minsk
BZ|BLZ|Belize|America/Belize
CA|CAN|Canada|America/Toronto America/St_Johns America/Halifax America/Glace_Bay America/Moncton America/Goose_Bay America/Iqaluit America/Winnipeg America/Resolute America/Rankin_Inlet America/Regina America/Swift_Current America/Edmonton America/Cambridge_Bay America/Inuvik America/Vancouver America/Dawson_Creek America/Fort_Nelson America/Whitehorse America/Dawson America/Panama America/Puerto_Rico America/Phoenix America/Blanc-Sablon America/Atikokan America/Creston
CC|CCK|Cocos (Keeling) Islands|Asia/Yangon Indian/Cocos
CD|COD|Congo - Kinshasa|Africa/Kinshasa Africa/Maputo Africa/Lagos Africa/Lubumbashi
CF|CAF|Central African Republic|Africa/Lagos Africa/Bangui
CG|COG|Congo - Brazzaville|Africa/Lagos Africa/Brazzaville
CH|CHE|Switzerland|Europe/Zurich
CI|CIV|Côte d’Ivoire|Africa/Abidjan
CK|COK|Cook Islands|Pacific/Rarotonga
CL|CHL|Chile|America/Santiago America/Coyhaique America/Punta_Arenas Pacific/Easter
CM|CMR|Cameroon|Africa/Lagos Africa/Douala
CN|CHN|China|Asia/Shanghai Asia/Urumqi
CO|COL|Colombia|America/Bogota
CR|CRI|Costa Rica|America/Costa_Rica
CU|CUB|Cuba|America/Havana
CV|CPV|Cape Verde|Atlantic/Cape_Verde
CW|CUW|Curaçao|America/Puerto_Rico America/Curacao
CX|CXR|Christmas Island|Asia/Bangkok Indian/Christmas
CY|CYP|Cyprus|Asia/Nicosia Asia/Famagusta
CZ|CZE|Czechia|Europe/Prague
DE|DEU|Germany|Europe/Berlin Europe/Zurich Europe/Busingen
DJ|DJI|Djibouti|Africa/Nairobi Africa/Djibouti
DK|DNK|Denmark|Europe/Berlin Europe/Copenhagen
DM|DMA|Dominica|America/Puerto_Rico America/Dominica
DO|DOM|Dominican Republic|America/Santo_Domingo
DZ|DZA|Algeria|Africa/Algiers
EC|ECU|Ecuador|America/Guayaquil Pacific/Galapagos
EE|EST|Estonia|Europe/Tallinn
EG|EGY|Egypt|Africa/Cairo
EH|ESH|Western Sahara|Africa/El_Aaiun
ER|ERI|Eritrea|Africa/Nairobi Africa/Asmara
ES|ESP|Spain|Europe/Madrid Africa/Ceuta Atlantic/Canary
ET|ETH|Ethiopia|Africa/Nairobi Africa/Addis_Ababa
FI|FIN|Finland|Europe/Helsinki
FJ|FJI|Fiji|Pacific/Fiji
FK|FLK|Falkland Islands|Atlantic/Stanley
FM|FSM|Micronesia|Pacific/Pohnpei Pacific/Kosrae Pacific/Port_Moresby Pacific/Guadalcanal Pacific/Chuuk
FO|FRO|Faroe Islands|Atlantic/Faroe
FR|FRA|France|Europe/Paris
GA|GAB|Gabon|Africa/Lagos Africa/Libreville
GB|GBR|United Kingdom|Europe/London
GD|GRD|Grenada|America/Puerto_Rico America/Grenada
GE|GEO|Georgia|Asia/Tbilisi
GF|GUF|French Guiana|America/Cayenne
GG|GGY|Guernsey|Europe/London Europe/Guernsey
GH|GHA|Ghana|Africa/Abidjan Africa/Accra
GI|GIB|Gibraltar|Europe/Gibraltar
GL|GRL|Greenland|America/Nuuk America/Danmarkshavn America/Scoresbysund America/Thule
GM|GMB|Gambia|Africa/Abidjan Africa/Banjul
GN|GIN|Guinea|Africa/Abidjan Africa/Conakry
GP|GLP|Guadeloupe|America/Puerto_Rico America/Guadeloupe
GQ|GNQ|Equatorial Guinea|Africa/Lagos Africa/Malabo
GR|GRC|Greece|Europe/Athens
GS|SGS|South Georgia & South Sandwich Islands|Atlantic/South_Georgia
GT|GTM|Guatemala|America/Guatemala
GU|GUM|Guam|Pacific/Guam
GW|GNB|Guinea-Bissau|Africa/Bissau
GY|GUY|Guyana|America/Guyana
HK|HKG|Hong Kong SAR China|Asia/Hong_Kong
HM|HMD|Heard & McDonald Islands|
HN|HND|Honduras|America/Tegucigalpa
HR|HRV|Croatia|Europe/Belgrade Europe/Zagreb
HT|HTI|Haiti|America/Port-au-Prince
HU|HUN|Hungary|Europe/Budapest
ID|IDN|Indonesia|Asia/Jakarta Asia/Pontianak Asia/Makassar Asia/Jayapura
IE|IRL|Ireland|Europe/Dublin
IL|ISR|Israel|Asia/Jerusalem
IM|IMN|Isle of Man|Europe/London Europe/Isle_of_Man
IN|IND|India|Asia/Kolkata
IO|IOT|British Indian Ocean Territory|Indian/Chagos
IQ|IRQ|Iraq|Asia/Baghdad
IR|IRN|Iran|Asia/Tehran
IS|ISL|Iceland|Africa/Abidjan Atlantic/Reykjavik
IT|ITA|Italy|Europe/Rome
JE|JEY|Jersey|Europe/London Europe/Jersey
JM|JAM|Jamaica|America/Jamaica
JO|JOR|Jordan|Asia/Amman
JP|JPN|Japan|Asia/Tokyo
KE|KEN|Kenya|Africa/Nairobi
KG|KGZ|Kyrgyzstan|Asia/Bishkek
KH|KHM|Cambodia|Asia/Bangkok Asia/Phnom_Penh
KI|KIR|Kiribati|Pacific/Tarawa Pacific/Kanton Pacific/Kiritimati
KM|COM|Comoros|Africa/Nairobi Indian/Comoro
KN|KNA|St. Kitts & Nevis|America/Puerto_Rico America/St_Kitts
KP|PRK|North Korea|Asia/Pyongyang
KR|KOR|South Korea|Asia/Seoul
KW|KWT|Kuwait|Asia/Riyadh Asia/Kuwait
KY|CYM|Cayman Islands|America/Panama America/Cayman
KZ|KAZ|Kazakhstan|Asia/Almaty Asia/Qyzylorda Asia/Qostanay Asia/Aqtobe Asia/Aqtau Asia/Atyrau Asia/Oral
LA|LAO|Laos|Asia/Bangkok Asia/Vientiane
LB|LBN|Lebanon|Asia/Beirut
LC|LCA|St. Lucia|America/Puerto_Rico America/St_Lucia
LI|LIE|Liechtenstein|Europe/Zurich Europe/Vaduz
LK|LKA|Sri Lanka|Asia/Colombo
LR|LBR|Liberia|Africa/Monrovia
LS|LSO|Lesotho|Africa/Johannesburg Africa/Maseru
LT|LTU|Lithuania|Europe/Vilnius
LU|LUX|Luxembourg|Europe/Brussels Europe/Luxembourg
LV|LVA|Latvia|Europe/Riga
LY|LBY|Libya|Africa/Tripoli
MA|MAR|Morocco|Africa/Casablanca
MC|MCO|Monaco|Europe/Paris Europe/Monaco
MD|MDA|Moldova|Europe/Chisinau
ME|MNE|Montenegro|Europe/Belgrade Europe/Podgorica
MF|MAF|St. Martin|America/Puerto_Rico America/Marigot
MG|MDG|Madagascar|Africa/Nairobi Indian/Antananarivo
MH|MHL|Marshall Islands|Pacific/Majuro Pacific/Tarawa Pacific/Kwajalein
MK|MKD|North Macedonia|Europe/Belgrade Europe/Skopje
ML|MLI|Mali|Africa/Abidjan Africa/Bamako
MM|MMR|Myanmar (Burma)|Asia/Yangon
MN|MNG|Mongolia|Asia/Ulaanbaatar Asia/Hovd
MO|MAC|Macao SAR China|Asia/Macau
MP|MNP|Northern Mariana Islands|Pacific/Guam Pacific/Saipan
MQ|MTQ|Martinique|America/Martinique
MR|MRT|Mauritania|Africa/Abidjan Africa/Nouakchott
MS|MSR|Montserrat|America/Puerto_Rico America/Montserrat
MT|MLT|Malta|Europe/Malta
MU|MUS|Mauritius|Indian/Mauritius
MV|MDV|Maldives|Indian/Maldives
MW|MWI|Malawi|Africa/Maputo Africa/Blantyre
MX|MEX|Mexico|America/Mexico_City America/Cancun America/Merida America/Monterrey America/Matamoros America/Chihuahua America/Ciudad_Juarez America/Ojinaga America/Mazatlan America/Bahia_Banderas America/Hermosillo America/Tijuana
MY|MYS|Malaysia|Asia/Kuala_Lumpur Asia/Kuching Asia/Singapore
MZ|MOZ|Mozambique|Africa/Maputo
NA|NAM|Namibia|Africa/Windhoek
NC|NCL|New Caledonia|Pacific/Noumea
NE|NER|Niger|Africa/Lagos Africa/Niamey
NF|NFK|Norfolk Island|Pacific/Norfolk
NG|NGA|Nigeria|Africa/Lagos
NI|NIC|Nicaragua|America/Managua
NL|NLD|Netherlands|Europe/Brussels Europe/Amsterdam
NO|NOR|Norway|Europe/Berlin Europe/Oslo
NP|NPL|Nepal|Asia/Kathmandu
NR|NRU|Nauru|Pacific/Nauru
NU|NIU|Niue|Pacific/Niue
NZ|NZL|New Zealand|Pacific/Auckland Pacific/Chatham
OM|OMN|Oman|Asia/Dubai Asia/Muscat
PA|PAN|Panama|America/Panama
PE|PER|Peru|America/Lima
PF|PYF|French Polynesia|Pacific/Tahiti Pacific/Marquesas Pacific/Gambier
PG|PNG|Papua New Guinea|Pacific/Port_Moresby Pacific/Bougainville
PH|PHL|Philippines|Asia/Manila
PK|PAK|Pakistan|Asia/Karachi
PL|POL|Poland|Europe/Warsaw
PM|SPM|St. Pierre & Miquelon|America/Miquelon
PN|PCN|Pitcairn Islands|Pacific/Pitcairn
PR|PRI|Puerto Rico|America/Puerto_Rico
PS|PSE|Palestinian Territories|Asia/Hebron Asia/Gaza
PT|PRT|Portugal|Europe/Lisbon Atlantic/Madeira Atlantic/Azores
PW|PLW|Palau|Pacific/Palau
PY|PRY|Paraguay|America/Asuncion
QA|QAT|Qatar|Asia/Qatar
RE|REU|Réunion|Asia/Dubai Indian/Reunion
RO|ROU|Romania|Europe/Bucharest
RS|SRB|Serbia|Europe/Belgrade
RU|RUS|Russia|Europe/Moscow Europe/Kaliningrad Europe/Simferopol Europe/Kirov Europe/Volgograd Europe/Astrakhan Europe/Saratov Europe/Ulyanovsk Europe/Samara Asia/Yekaterinburg Asia/Omsk Asia/Novosibirsk Asia/Barnaul Asia/Tomsk Asia/Novokuznetsk Asia/Krasnoyarsk Asia/Irkutsk Asia/Chita Asia/Yakutsk Asia/Khandyga Asia/Vladivostok Asia/Ust-Nera Asia/Magadan Asia/Sakhalin Asia/Srednekolymsk Asia/Kamchatka Asia/Anadyr
RW|RWA|Rwanda|Africa/Maputo Africa/Kigali
SA|SAU|Saudi Arabia|Asia/Riyadh
SB|SLB|Solomon Islands|Pacific/Guadalcanal
SC|SYC|Seychelles|Asia/Dubai Indian/Mahe
SD|SDN|Sudan|Africa/Khartoum
SE|SWE|Sweden|Europe/Berlin Europe/Stockholm
SG|SGP|Singapore|Asia/Singapore
SH|SHN|St. Helena|Africa/Abidjan Atlantic/St_Helena
SI|SVN|Slovenia|Europe/Belgrade Europe/Ljubljana
SJ|SJM|Svalbard & Jan Mayen|Europe/Berlin Arctic/Longyearbyen
SK|SVK|Slovakia|Europe/Prague Europe/Bratislava
SL|SLE|Sierra Leone|Africa/Abidjan Africa/Freetown
SM|SMR|San Marino|Europe/Rome Europe/San_Marino
SN|SEN|Senegal|Africa/Abidjan Africa/Dakar
SO|SOM|Somalia|Africa/Nairobi Africa/Mogadishu
SR|SUR|Suriname|America/Paramaribo
SS|SSD|South Sudan|Africa/Juba
ST|STP|São Tomé & Príncipe|Africa/Sao_Tome
SV|SLV|El Salvador|America/El_Salvador
SX|SXM|Sint Maarten|America/Puerto_Rico America/Lower_Princes
SY|SYR|Syria|Asia/Damascus
SZ|SWZ|Eswatini|Africa/Johannesburg Africa/Mbabane
TC|TCA|Turks & Caicos Islands|America/Grand_Turk
TD|TCD|Chad|Africa/Ndjamena
TF|ATF|French Southern Territories|Asia/Dubai Indian/Maldives Indian/Kerguelen
TG|TGO|Togo|Africa/Abidjan Africa/Lome
TH|THA|Thailand|Asia/Bangkok
TJ|TJK|Tajikistan|Asia/Dushanbe
TK|TKL|Tokelau|Pacific/Fakaofo
TL|TLS|Timor-Leste|Asia/Dili
TM|TKM|Turkmenistan|Asia/Ashgabat
TN|TUN|Tunisia|Africa/Tunis
TO|TON|Tonga|Pacific/Tongatapu
TR|TUR|Türkiye|Europe/Istanbul
TT|TTO|Trinidad & Tobago|America/Puerto_Rico America/Port_of_Spain
TV|TUV|Tuvalu|Pacific/Tarawa Pacific/Funafuti
TW|TWN|Taiwan|Asia/Taipei
TZ|TZA|Tanzania|Africa/Nairobi Africa/Dar_es_Salaam
UA|UKR|Ukraine|Europe/Kyiv Europe/Simferopol
UG|UGA|Uganda|Africa/Nairobi Africa/Kampala
UM|UMI|U.S. Outlying Islands|Pacific/Wake Pacific/Pago_Pago Pacific/Tarawa Pacific/Midway
US|USA|United States|America/New_York America/Detroit America/Kentucky/Louisville America/Kentucky/Monticello America/Indiana/Indianapolis America/Indiana/Vincennes America/Indiana/Winamac America/Indiana/Marengo America/Indiana/Petersburg America/Indiana/Vevay America/Chicago America/Indiana/Tell_City America/Indiana/Knox America/Menominee America/North_Dakota/Center America/North_Dakota/New_Salem America/North_Dakota/Beulah America/Denver America/Boise America/Phoenix America/Los_Angeles America/Anchorage America/Juneau America/Sitka America/Metlakatla America/Yakutat America/Nome America/Adak Pacific/Honolulu
UY|URY|Uruguay|America/Montevideo
UZ|UZB|Uzbekistan|Asia/Tashkent Asia/Samarkand
VA|VAT|Vatican City|Europe/Rome Europe/Vatican
VC|VCT|St. Vincent & Grenadines|America/Puerto_Rico America/St_Vincent
VE|VEN|Venezuela|America/Caracas
VG|VGB|British Virgin Islands|America/Puerto_Rico America/Tortola
VI|VIR|U.S. Virgin Islands|America/Puerto_Rico America/St_Thomas
VN|VNM|Vietnam|Asia/Ho_Chi_Minh Asia/Bangkok
VU|VUT|Vanuatu|Pacific/Efate
WF|WLF|Wallis & Futuna|Pacific/Tarawa Pacific/Wallis
WS|WSM|Samoa|Pacific/Apia
XK|XKK|Kosovo|
YE|YEM|Yemen|Asia/Riyadh Asia/Aden
YT|MYT|Mayotte|Africa/Nairobi Indian/Mayotte
ZA|ZAF|South Africa|Africa/Johannesburg
ZM|ZMB|Zambia|Africa/Maputo Africa/Lusaka
ZW|ZWE|Zimbabwe|Africa/Maputo Africa/Harare
`
