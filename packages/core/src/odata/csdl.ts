import type { Tables } from '../schema/index.ts';
import type { EdmType } from './edm.ts';
import { entityOf, type Entity } from './model.ts';

/** What the types of all tables stand in. */
const namespace = 'Ephoros';
const container = 'Tables';

type Json = {
  readonly [Name in string]: string | number | boolean | Json | readonly Json[] | readonly string[];
};

/** The model as CSDL JSON (OData CSDL JSON 4.01). */
export function csdlJson(entities: readonly Entity[], tables: Tables): Json {
  const types = entities.map((entity): readonly [string, Json] => [
    entity.name,
    typeJson(entity, tables),
  ]);
  const sets = entities.map((entity): readonly [string, Json] => [
    entity.name,
    {
      $Collection: true,
      $Type: `${namespace}.${entity.name}`,
      $NavigationPropertyBinding: Object.fromEntries(bindings(entity, tables)),
    },
  ]);
  return {
    $Version: '4.01',
    $EntityContainer: `${namespace}.${container}`,
    $Reference: {
      [`${coreVocabulary}.json`]: {
        $Include: [{ $Namespace: 'Org.OData.Core.V1', $Alias: 'Core' }],
      },
    },
    [namespace]: {
      ...Object.fromEntries(types),
      [container]: { $Kind: 'EntityContainer', ...Object.fromEntries(sets) },
    },
  };
}

function typeJson({ table, properties, navigations }: Entity, tables: Tables): Json {
  const own = properties.map(({ name, column, type }): readonly [string, Json] => [
    name,
    {
      ...(type.isCollection ? { $Collection: true } : {}),
      ...(type.name === 'Edm.String' ? {} : { $Type: type.name }),
      // Of a list it says whether its members may be null.
      ...(column.nullable || type.isCollection ? { $Nullable: true } : {}),
      ...facetsJson(type),
      '@Org.OData.Core.V1.Description': column.label,
    },
  ]);
  const ways = navigations.map(({ name, relationship, target }): readonly [string, Json] => {
    const there = entityOf(target, tables);
    return [
      name,
      {
        $Kind: 'NavigationProperty',
        $Type: `${namespace}.${there?.name ?? ''}`,
        ...(relationship.kind === 'many' ? { $Collection: true } : { $Nullable: true }),
      },
    ];
  });
  return {
    $Kind: 'EntityType',
    $Key: keyNames({ table, properties }),
    ...Object.fromEntries([...own, ...ways]),
    '@Org.OData.Core.V1.Description': table.title,
  };
}

function facetsJson({ maxLength, precision, scale }: EdmType): Json {
  return {
    ...(maxLength === undefined ? {} : { $MaxLength: maxLength }),
    ...(precision === undefined ? {} : { $Precision: precision }),
    ...(scale === undefined ? {} : { $Scale: scale }),
  };
}

/** The model as CSDL XML (OData CSDL XML 4.01). */
export function csdlXml(
  entities: readonly Entity[],
  tables: Tables,
  version: '4.0' | '4.01',
): string {
  const types = entities.map((entity) => typeXml(entity, tables));
  const sets = entities.map((entity) => {
    const { name } = entity;
    const bound = bindings(entity, tables).map(([path, target]) =>
      element('NavigationPropertyBinding', { Path: path, Target: target }),
    );
    return element('EntitySet', { Name: name, EntityType: `${namespace}.${name}` }, bound);
  });
  const schema = element('Schema', { xmlns: edm, Namespace: namespace }, [
    ...types,
    element('EntityContainer', { Name: container }, sets),
  ]);
  const services = element('edmx:DataServices', {}, [schema]);
  const reference = element('edmx:Reference', { Uri: `${coreVocabulary}.xml` }, [
    element('edmx:Include', { Namespace: 'Org.OData.Core.V1', Alias: 'Core' }),
  ]);
  const whole = element('edmx:Edmx', { 'xmlns:edmx': edmx, Version: version }, [
    reference,
    services,
  ]);
  return `<?xml version="1.0" encoding="utf-8"?>\n${whole}\n`;
}

const edm = 'http://docs.oasis-open.org/odata/ns/edm';
const edmx = 'http://docs.oasis-open.org/odata/ns/edmx';
const coreVocabulary =
  'https://oasis-tcs.github.io/odata-vocabularies/vocabularies/Org.OData.Core.V1';

function typeXml({ name, table, properties, navigations }: Entity, tables: Tables): string {
  const refs = keyNames({ table, properties }).map((one) => element('PropertyRef', { Name: one }));
  const own = properties.map(({ name: of, column, type }) =>
    element(
      'Property',
      {
        Name: of,
        Type: type.isCollection ? `Collection(${type.name})` : type.name,
        // Of a list it says whether its members may be null.
        ...(column.nullable || type.isCollection ? {} : { Nullable: 'false' }),
        ...facetsXml(type),
      },
      [described(column.label)],
    ),
  );
  const ways = navigations.map(({ name: of, relationship, target }) => {
    const type = `${namespace}.${entityOf(target, tables)?.name ?? ''}`;
    const isMany = relationship.kind === 'many';
    return element('NavigationProperty', { Name: of, Type: isMany ? `Collection(${type})` : type });
  });
  return element('EntityType', { Name: name }, [
    element('Key', {}, refs),
    ...own,
    ...ways,
    described(table.title),
  ]);
}

function facetsXml({
  name,
  maxLength,
  precision,
  scale,
}: EdmType): Readonly<Record<string, string>> {
  return {
    ...(maxLength === undefined ? {} : { MaxLength: String(maxLength) }),
    ...(precision === undefined ? {} : { Precision: String(precision) }),
    ...(name === 'Edm.Decimal' && scale !== undefined ? { Scale: String(scale) } : {}),
  };
}

function described(text: string): string {
  return element('Annotation', { Term: 'Core.Description', String: text });
}

function keyNames({ table, properties }: Pick<Entity, 'table' | 'properties'>): readonly string[] {
  return table.key.map(
    (part) => properties.find(({ column }) => column.name === part)?.name ?? part,
  );
}

function bindings({ navigations }: Entity, tables: Tables): readonly (readonly [string, string])[] {
  return navigations.map(({ name, target }) => [name, entityOf(target, tables)?.name ?? '']);
}

const marks: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
};

function element(
  name: string,
  attributes: Readonly<Record<string, string>>,
  content: readonly string[] = [],
): string {
  const written = Object.entries(attributes).map(([key, value]) => ` ${key}="${escaped(value)}"`);
  const start = `<${name}${written.join('')}`;
  return content.length === 0 ? `${start}/>` : `${start}>${content.join('')}</${name}>`;
}

/** Without the control characters that XML 1.0 has no spelling for. */
function escaped(text: string): string {
  return text
    .replaceAll(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, ' ')
    .replaceAll(/[&<>"]/g, (mark) => marks[mark] ?? mark)
    .replaceAll(/[\n\r\t]/g, (sign) => `&#${sign.charCodeAt(0)};`);
}
