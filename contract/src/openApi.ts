import { z } from 'zod';
import type { RouteShape } from './base/route';
import { routes } from './routes';
import { errorShape } from './base/errorShape';

type Json = Record<string, unknown>;

/** The OpenAPI 3.1 description of the API, made from the routes. */
export function openApiDocument(version: string): Json {
  const paths: Record<string, Json> = {};
  for (const [operationId, route] of Object.entries(routes) as [string, RouteShape][]) {
    (paths[route.path] ??= {})[route.method] = operation(operationId, route);
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Fulvet', version, description: 'Files the team’s email under the right contact, account and deal, by rules.' },
    servers: [{ url: '/api/v1' }],
    security: [{ token: [] }, { session: [] }],
    paths,
    components: {
      securitySchemes: { token: { type: 'http', scheme: 'bearer' }, session: { type: 'apiKey', in: 'cookie', name: 'fulvet.session' } },
      schemas: { Error: jsonSchema(errorShape) },
    },
  };
}

function operation(operationId: string, route: RouteShape): Json {
  const roles = route.access === 'public' ? 'anybody' : route.access.join(', ');
  return {
    operationId,
    summary: route.summary,
    description: `For ${roles}.`,
    ...(route.access === 'public' ? { security: [] } : {}),
    parameters: [...parameters('path', route.params), ...parameters('query', route.query)],
    ...(route.body ? { requestBody: { required: true, content: bodyContent(route.body) } } : {}),
    responses: {
      200: { description: 'Done', content: responseContent(route.response) },
      default: {
        description: route.errors ? `Error; codes of its own: ${route.errors.join(', ')}` : 'Error',
        content: { 'application/json': { schema: { $ref: '#/components/schemas/Error' } } },
      },
    },
  };
}

function parameters(place: 'path' | 'query', shape: z.ZodObject | undefined): Json[] {
  if (!shape) return [];
  return Object.entries(shape.shape as Record<string, z.ZodType>).map(([name, type]) => ({
    name,
    in: place,
    required: place === 'path' || !type.safeParse(undefined).success,
    schema: jsonSchema(type),
  }));
}

function bodyContent(body: z.ZodType | 'bytes'): Json {
  return body === 'bytes'
    ? { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } }
    : { 'application/json': { schema: jsonSchema(body) } };
}

function responseContent(response: RouteShape['response']): Json {
  return 'mediaType' in response
    ? { [response.mediaType]: { schema: { type: 'string' } } }
    : { 'application/json': { schema: jsonSchema(response) } };
}

function jsonSchema(type: z.ZodType): Json {
  const { $schema: _, ...schema } = z.toJSONSchema(type, { io: 'input', unrepresentable: 'any' }) as Json;
  return schema;
}
